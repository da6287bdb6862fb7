import { pictureCodec } from '../codec/registry'
import type { Media, VideoInfo } from '../media/media'
import { contradictionText } from '../media/stated'
import type { Problem } from '../problem'
import { rateLabel, rateText } from '../time/rate'

/** What is doubtful of the pictures of a file: stated twice and not alike, stated nowhere, or only nearly so. */
function doubtsOf(v: VideoInfo, where: string): Problem[] {
  const out: Problem[] = (v.contradictions ?? []).map((c) => ({
    code: 'media.contradiction',
    message: `It says two things of its pictures: ${contradictionText(c)}.`,
    where,
    fix: 'Ask which is right: players differ in which of the two they follow.',
  }))
  if (v.untold?.includes('scan') && pictureCodec(v.codec))
    out.push({
      code: 'media.scan-untold',
      message: `It does not say whether its pictures are of one moment or of two fields: they are taken for ${v.scan}.`,
      where,
      fix: 'Where moving edges look torn it is interlaced: ask for a copy that says so.',
    })
  if (v.ownRate)
    out.push({
      code: 'media.rate-off',
      message:
        `Its frames run at ${rateText(v.ownRate)} a second by their own times; ` +
        `they are counted at ${rateLabel(v.rate)} (${rateText(v.rate)}).`,
      where,
      fix: 'Ask for a copy at the exact rate, where pictures and sound must stay together for long.',
    })
  return out
}

/** A file with what is doubtful of its pictures among its problems. */
export function withDoubts(media: Media): Media {
  const [v] = media.info.video
  const doubts = v ? doubtsOf(v, media.source.name) : []
  return doubts.length ? { ...media, info: { ...media.info, problems: [...media.info.problems, ...doubts] } } : media
}
