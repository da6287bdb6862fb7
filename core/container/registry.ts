import type { ByteSource } from '../bytes'
import { captionsIn } from '../codec/captions'
import { withMessages } from '../codec/supplemental'
import type { Media } from '../media/media'
import { fail, ProblemError, toProblem } from '../problem'
import { listed } from '../text'
import type { Brand, Container } from './container'
import { withDoubts } from './doubts'
import { matroska } from './matroska/container'
import { mp4 } from './mp4/container'
import { mxf } from './mxf/container'
import { wav } from './wav/container'

/** Containers that are read and written: a new one is its folder and its line here. */
export const containers: Container[] = [wav, matroska, mp4, mxf]

/** Every kind of file there is, over all containers. */
export function brands(): Brand[] {
  return containers.flatMap((c) => c.brands)
}

/** What people call a kind of file; its own name where it is none of ours, as of runs of stills. */
export const brandLabel = (name: string): string => brands().find((b) => b.name === name)?.label ?? name

/** The container that comes as a brand. */
export function containerOf(brand: string): Container {
  return (
    containers.find((c) => c.brands.some((b) => b.name === brand)) ??
    fail('container.unknown', `Files of kind “${brand}” are not known here.`, brand, 'Choose another container.')
  )
}

/** The brand a file's name says it is; null when it is none of ours. */
export function brandOf(name: string): Brand | null {
  const lower = name.toLowerCase()
  return brands().find((b) => b.extensions.some((e) => lower.endsWith(e))) ?? null
}

/** The container that a file begins as, whatever its name says; null when it is none that is read here. */
export async function recognised(source: ByteSource): Promise<Container | null> {
  const head = await source.read(0, 16)
  return containers.find((c) => c.recognise(head)) ?? null
}

/** A file with what its pictures carry besides. */
async function withCaptions(media: Media): Promise<Media> {
  const [track] = media.video
  const captions = track && (await captionsIn(media.source, track))
  if (!captions) return media
  return { ...media, info: { ...media.info, data: [...(media.info.data ?? []), captions] } }
}

/** Opens a media file by what it holds, whatever its name says. Throws a problem when it is none we read. */
export async function openMedia(source: ByteSource): Promise<Media> {
  if (source.size === 0)
    fail('media.empty', 'The file is empty.', source.name, 'Copy it again from where it came from.')
  try {
    const container = await recognised(source)
    if (container) return withDoubts(await withMessages(await withCaptions(await container.open(source))))
  } catch (thrown) {
    if (thrown instanceof ProblemError) throw thrown
    if (thrown instanceof RangeError)
      fail(
        'media.damaged',
        'The file holds values that make no sense.',
        source.name,
        'Copy it again from where it came from.',
      )
    throw new ProblemError(toProblem(thrown, source.name))
  }
  const labels = brands().map((b) => b.label)
  const kinds = (last: 'nor' | 'or') => listed(labels, last)
  fail(
    'media.unknown',
    'This is not a media file that can be read here, whatever its name says: ' +
      `its beginning is neither ${kinds('nor')}.`,
    source.name,
    `Choose a file of kind ${kinds('or')}. If it should be one, it may be encrypted or damaged: ask for it again.`,
  )
}
