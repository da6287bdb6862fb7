import type { Problem } from '../../problem'
import type { FragmentTable } from './fragments'
import type { Trak } from './trak'

/** What the index of a track asks of players that is not followed here, in words. */
function asks({ kind, edits, describedAnew, elsewhere }: Trak, fragment: FragmentTable | undefined): string[] {
  const shown = edits.findIndex((e) => e.mediaTime >= 0)
  const pieces = edits.slice(Math.max(0, shown)).filter((e) => e.mediaTime >= 0)
  return [
    ...(elsewhere ? ['it stands in another file'] : []),
    ...(describedAnew && fragment?.entries !== 1 ? ['it is described anew within itself'] : []),
    ...(edits.some((e) => e.speed !== 1 && e.mediaTime >= 0) ? ['parts of it are to be played at another speed'] : []),
    ...(edits.some((e, i) => i > shown && e.mediaTime < 0 && i < edits.length - 1)
      ? ['it is to be interrupted by gaps']
      : []),
    ...(kind === 'soun' && pieces.length > 1 ? [`it is to be played in ${pieces.length} pieces`] : []),
  ]
}

/** What is not whole of a track as it is read, because its index asks for more than is done here. */
export function unfollowed(trak: Trak, fragment: FragmentTable | undefined, where: string): Problem[] {
  const what = trak.kind === 'vide' ? 'pictures' : 'sound'
  return asks(trak, fragment).map((asked) => ({
    code: 'mp4.unfollowed',
    damage: true,
    message: `The ${what} of track ${trak.id} cannot be read as the file means it: ${asked}.`,
    where,
    fix: 'Ask for a copy of one piece, with everything in it.',
  }))
}
