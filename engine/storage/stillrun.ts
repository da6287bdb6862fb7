import { readFile } from 'node:fs/promises'
import path from 'node:path'
import type { PictureSource } from '../../core/codec/codec'
import { firstNumber, rateOfRun } from '../../core/files/fileset'
import { colourText, lumaWeightsOf, type LumaWeights } from '../../core/media/colour'
import type { MediaInfo, StartTimecode } from '../../core/media/media'
import { foundJumps } from '../../core/media/starttimecode'
import type { FrameTimecode } from '../../core/media/timecodes'
import type { Picture } from '../../core/picture/picture'
import { pictureOfRgb } from '../../core/picture/rgb'
import { fail } from '../../core/problem'
import { stillFormatOf } from '../../core/stills/registry'
import type { Still, StillHead } from '../../core/stills/still'
import { makeRate, type Frames } from '../../core/time/rate'
import { canDropFrame, formatTimecode, timecodeToFrames } from '../../core/time/timecode'
import { statMedia } from './fileset'
import { stillLibrary } from './stilllibrary'

/** One still with the bytes of its file. */
async function readStill(file: string): Promise<Still & { readonly bytes: Uint8Array }> {
  const bytes = await readFile(file)
  return { ...(await stillFormatOf(file)!.read(bytes, path.basename(file), stillLibrary)), bytes }
}

/** A still as a picture, 10 bit where it has more than 8. */
function pictureOfStill({ head, picture }: Still, given?: LumaWeights): Picture {
  const weights = given ?? lumaWeightsOf(head)
  return pictureOfRgb(picture, head.bitDepth > 8 ? 10 : 8, weights)
}

/** Throws where a still of a run is otherwise than the first: what is said of that is said of all. */
function needAlike(still: StillHead, first: StillHead, name: string): void {
  const said = ({ width, height, bitDepth, colour, alpha }: StillHead) =>
    [`${width}×${height}`, `${bitDepth} bit`, colourText(colour), ...(alpha ? ['with alpha'] : [])].join(', ')
  const [own, wanted] = [said(still), said(first)]
  if (own !== wanted)
    fail(
      'stills.undecodable',
      `A still is otherwise than the first of its run: ${own}, not ${wanted}.`,
      name,
      'Ask for it anew, or for a run without it.',
    )
}

/** What a run of stills is, by the first of them. */
function describe(first: StillHead, count: number, full: string, name: string): Omit<MediaInfo, 'size'> {
  const rate = rateOfRun(full) ?? first.rate ?? makeRate(25)
  const base = { rate, dropFrame: first.dropFrame && canDropFrame(rate) }
  // without a timecode of its own a run counts by its numbers
  const start = (first.timecode && timecodeToFrames(...first.timecode, base)) ?? firstNumber(full)
  return {
    container: 'stills',
    indexAt: 'front',
    durationFrames: count,
    durationSeconds: (count * rate.den) / rate.num,
    timecode: {
      ...{ start: formatTimecode(start, base), startFrames: start, ...base },
      ...(first.timecode ? {} : { numbered: true as const }),
      ...(first.timecode && first.reel ? { reel: first.reel } : {}),
    },
    audio: [],
    data: [],
    chapters: [],
    bext: null,
    problems: [
      ...(first.alpha
        ? ['It has an alpha channel: copied stills keep it, and whatever else is made goes without.']
        : []),
      ...first.notes,
    ].map((message) => ({
      ...{ code: 'stills.said', message, where: name },
      fix: 'Ask for other files if that matters.',
    })),
    video: [
      {
        codec: stillFormatOf(full)!.codec,
        profile: null,
        level: null,
        width: first.width,
        height: first.height,
        rate,
        rateStated: first.rate !== null,
        constantRate: true,
        scan: first.interlaced ? 'interlaced' : 'progressive',
        ...(first.interlaced === null ? { untold: ['scan'] as const } : {}),
        chroma: '4:4:4',
        bitDepth: first.bitDepth,
        pixelAspect: first.pixelAspect ?? '1:1',
        ...(first.alpha ? { alpha: true as const } : {}),
        colour: first.colour,
        // a still says all of itself in one place
        contradictions: [],
        frames: count,
        intra: true,
        webCodec: null,
      },
    ],
  }
}

const labelOf = ({ timecode }: StillHead) => timecode && timecode.map((n) => String(n).padStart(2, '0')).join(':')

/** The timecode that each still says: of those that were read it is known, the others are read for it. */
function timecodeOf(
  labels: ReadonlyMap<Frames, string | null>,
  read: (frame: Frames) => Promise<unknown>,
): FrameTimecode {
  return {
    where: 'in its stills',
    binary: false,
    dropUnsaid: true,
    async *walk(range) {
      for (let frame = range.in; frame < range.out; frame++) {
        // one that cannot be read is said where the file's damage is
        if (!labels.has(frame)) await read(frame).catch(() => null)
        yield { frame, label: labels.get(frame) ?? null }
      }
    },
  }
}

/**
 * The timecode of a run with its jumps, found by the timecodes of a few stills. Where a format cannot say that labels
 * are dropped, they are where the run follows better so; where it follows as well either way, that is not told. One
 * that they do not all say is not followed.
 */
async function followed(said: StartTimecode, files: readonly string[], saysDropped: boolean): Promise<StartTimecode> {
  const read = new Map<Frames, StillHead['timecode']>()
  const labelAt = async (frame: Frames) => {
    if (!read.has(frame)) read.set(frame, (await readStill(files[frame]!).catch(() => null))?.head.timecode ?? null)
    return read.get(frame)!
  }
  let best = said
  const ways = said.dropFrame || !canDropFrame(said.rate) ? [said.dropFrame] : [false, true]
  for (const dropFrame of ways) {
    const base = { rate: said.rate, dropFrame }
    const countOf = async (frame: Frames) => {
      const label = await labelAt(frame)
      return label && timecodeToFrames(...label, base)
    }
    const startFrames = await countOf(0)
    const jumps = await foundJumps(files.length, base, countOf)
    if (startFrames === null || !jumps) continue
    const { length } = best.jumps ?? { length: Infinity }
    if (jumps.length === length && !saysDropped) best = { ...best, dropUntold: true }
    if (jumps.length < length) best = { ...said, ...base, startFrames, start: formatTimecode(startFrames, base), jumps }
  }
  return best
}

/** The head of the first still; where its timecode may be none, it is one if the next still goes on from it. */
async function firstOf([file, next]: readonly string[]): Promise<StillHead> {
  const { head } = await readStill(file!)
  if (!head.unsure) return head
  const after = next === undefined ? null : await readStill(next).catch(() => null)
  return after?.head.timecode?.join() === '0,0,0,1' ? head : { ...head, timecode: null }
}

/** Numbered stills as pictures, one a frame, or one still by itself. */
export async function openStills(files: readonly string[], full: string, name: string, weights?: LumaWeights) {
  const first = await firstOf(files)
  const labels = new Map<Frames, string | null>()
  const still = async (frame: Frames) => {
    const read = await readStill(files[frame]!)
    labels.set(frame, labelOf(read.head))
    needAlike(read.head, first, path.basename(files[frame]!))
    return read
  }
  const { size } = await statMedia(full)
  const described = describe(first, files.length, full, name)
  const saysDropped = stillFormatOf(full)!.tells(described.timecode!.rate).includes('dropped')
  const timecode = first.timecode ? await followed(described.timecode!, files, saysDropped) : described.timecode
  return {
    info: { ...described, timecode, size },
    media: null,
    still: async (frame: Frames) => (await still(frame)).bytes,
    stillAsIs: (frame: Frames) => readFile(files[frame]!),
    ...(first.timecode ? { timecodes: [timecodeOf(labels, still)] } : {}),
    sound: () => null,
    close: () => Promise.resolve(),
    pictures: (): PictureSource => ({
      frames: files.length,
      async *read(range) {
        for (let frame = range.in; frame < range.out; frame++)
          yield { frame, picture: pictureOfStill(await still(frame), weights) }
      },
    }),
  }
}
