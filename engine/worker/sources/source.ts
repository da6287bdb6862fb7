import type { PictureSource, SoundSource } from '../../../core/codec/codec'
import { canDecodeSound, canHear, openTracks } from '../../../core/codec/sound'
import type { WebCodecs } from '../../../core/codec/web/webcodecs'
import { isTimecode } from '../../../core/media/ancillary'
import { countAt } from '../../../core/media/starttimecode'
import type { MediaInfo, Scan } from '../../../core/media/media'
import { takenAs } from '../../../core/media/scan'
import type { Fingerprint } from '../../../core/media/fingerprint'
import type { FilePath } from '../../../core/media/filepath'
import { fail } from '../../../core/problem'
import { assemblyInfo, placeIn, soundIn, type FrozenAssembly } from '../../../core/timeline/assembly/assembly'
import { copySource } from '../../../core/timeline/assembly/copy'
import { assemblePictures, sourcesIn, untouchedFrames } from '../../../core/timeline/assembly/pictures'
import { assembleSound } from '../../../core/timeline/assembly/sound'
import type { SourcePlace } from '../../../core/timeline/sourceat'
import type { FrameRange } from '../../../core/time/range'
import type { Frames } from '../../../core/time/rate'
import { openMediaFile, type MediaFileOpened } from '../../storage/mediafile'
import type { Roots } from '../../storage/roots'
import { checkFingerprint } from '../../storage/fingerprint'

/** Where a timeline's pictures and sound are: one flattened file, or an assembly of many. */
export interface SourceRef extends FilePath {
  readonly fingerprint: Fingerprint
  readonly assembly?: FrozenAssembly | null
  /** What a person said its pictures are, where its file says otherwise. */
  readonly scan?: Scan | undefined
}

/** A stretch of a file that is copied untouched. */
export interface CopiedPart {
  readonly file: MediaFileOpened
  readonly range: FrameRange
}

/** A frame of a file, or of an assembly where it is made there: `content` as in its fingerprint. */
export interface Origin {
  readonly content: string
  readonly frame: Frames
}

/** Where each frame of a timeline comes from, so that what is known of it is known wherever it is used. */
export function originOf(ref: SourceRef, infos: readonly (MediaInfo | null)[]): (frame: Frames) => Origin {
  const { assembly, fingerprint } = ref
  if (!assembly) return (frame) => ({ content: fingerprint.content, frame })
  const untouched = untouchedFrames(assembly, infos)
  return (frame) => {
    const own = untouched(frame)
    return own
      ? { content: assembly.sources[own.source]!.fingerprint.content, frame: own.frame }
      : { content: fingerprint.content, frame }
  }
}

/** A timeline's pictures and sound, opened for reading, wherever they come from. */
export interface OpenSource {
  readonly info: MediaInfo
  origin(frame: Frames): Origin
  /** Null without any. A problem is thrown where sound is read that cannot be decoded here. */
  sound(): SoundSource | null
  /** Whether sound of a range can be decoded here: of a file what is not closed, of an assembly all that it takes. */
  canHear(range: FrameRange): boolean
  pictures(): PictureSource
  /** The files a range can be copied from untouched, one after the other, and where in them. */
  copy(range: FrameRange): readonly CopiedPart[]
  /** Lines of the blanking of a frame, track by track, with their timecode or without; none of an assembly. */
  lines(frame: Frames, timecode: boolean): Promise<readonly Uint8Array[]>
  /** Where the picture of a frame was taken from, as far as that is known. */
  place(frame: Frames): SourcePlace | null
  close(): Promise<void>
}

/** What is asked for, made when it is first. */
function kept<T>(make: () => T): () => T {
  let made: { readonly value: T } | null = null
  return () => (made ??= { value: make() }).value
}

/** Opens a media file after checking that it is still the one that was fingerprinted. */
async function openChecked(roots: Roots, ref: SourceRef): Promise<MediaFileOpened> {
  const file = roots.resolve(ref.root, ref.path)
  await checkFingerprint(file, ref.fingerprint, ref.path)
  return openMediaFile(file, ref.path)
}

/** The sources of an assembly that its links use, by index. */
function usedSources(assembly: FrozenAssembly): Set<number | undefined> {
  return new Set(assembly.links.flatMap((l) => [l.clip?.source, l.outgoing?.source]))
}

/** The files behind a source. */
export function filesBehind(ref: SourceRef): readonly (FilePath & { readonly fingerprint: Fingerprint })[] {
  const used = ref.assembly && usedSources(ref.assembly)
  return ref.assembly && used ? ref.assembly.sources.filter((_, i) => used.has(i)) : [ref]
}

/** Throws when a file behind a source is not the one that was brought in. */
export async function checkSource(roots: Roots, ref: SourceRef): Promise<void> {
  for (const f of filesBehind(ref)) await checkFingerprint(roots.resolve(f.root, f.path), f.fingerprint, f.path)
}

export async function openSource(roots: Roots, codecs: WebCodecs | null, ref: SourceRef): Promise<OpenSource> {
  const { assembly } = ref
  if (!assembly) {
    const file = await openChecked(roots, ref)
    return {
      info: takenAs(file.info, ref.scan),
      origin: originOf(ref, []),
      sound: kept(() => file.sound(codecs)),
      canHear: () => !file.media || file.info.audio.length === 0 || canHear(file.info.audio, codecs),
      pictures: () => file.pictures(codecs),
      copy: (range) => [{ file, range }],
      lines: (frame, timecode) =>
        Promise.all(
          (file.media?.data ?? []).map(async (d) => {
            const lines = await d.read(frame)
            return timecode ? lines : d.without(lines, isTimecode)
          }),
        ),
      place: (frame) => {
        const { timecode } = file.info
        return timecode && { ...timecode, frames: countAt(timecode, frame), reel: timecode.reel ?? '' }
      },
      close: () => file.close(),
    }
  }
  const used = usedSources(assembly)
  const files: (MediaFileOpened | null)[] = []
  const close = async () => void (await Promise.all(files.map((f) => f?.close())))
  try {
    for (let i = 0; i < assembly.sources.length; i++)
      files.push(used.has(i) ? await openChecked(roots, assembly.sources[i]!) : null)
  } catch (e) {
    await close()
    throw e
  }
  const sounds = files.map((f) => f?.sound(codecs) ?? null)
  const infos = files.map((f) => f?.info ?? null)
  return {
    info: assemblyInfo(assembly, infos),
    origin: originOf(ref, infos),
    sound: kept(() => assembleSound(assembly, (i) => sounds[i] ?? null)),
    canHear(range) {
      const open = infos.flatMap((i) => (i ? openTracks(i.audio) : []))
      const taken = soundIn(assembly, infos, sourcesIn(assembly, range).events)
      return taken.every((t) => open.includes(t) && canDecodeSound([t], codecs))
    },
    pictures: () =>
      assemblePictures(assembly, (i) => {
        const info = files[i]?.info.video[0]
        return info ? { info, pictures: files[i]!.pictures(codecs) } : null
      }),
    copy(range) {
      const found = copySource(assembly, range, infos)
      if ('why' in found)
        return fail(
          'rewrap.assembled',
          `This stretch cannot be copied untouched: ${found.why}.`,
          ref.path,
          'Use a master or a viewing copy.',
        )
      return found.parts.map((p) => ({ file: files[p.source]!, range: p.range }))
    },
    lines: () => Promise.resolve([]),
    place: (frame) => placeIn(assembly, infos, frame),
    close,
  }
}
