import { readFile } from 'node:fs/promises'
import path from 'node:path'
import type { PictureSource, SoundSource } from '../../core/codec/codec'
import { openPictures } from '../../core/codec/pictures'
import { openSound } from '../../core/codec/sound'
import type { WebCodecs } from '../../core/codec/web/webcodecs'
import { filesOf, firstNumber, isRun, rateOfRun } from '../../core/files/fileset'
import { bt709, colourText, lumaWeights, type LumaWeights } from '../../core/media/colour'
import { describedEdition, type AudioInfo, type Media, type MediaInfo } from '../../core/media/media'
import { openMedia } from '../../core/container/registry'
import type { Picture } from '../../core/picture/picture'
import { pictureOfRgb } from '../../core/picture/rgb'
import { stillFormatOf } from '../../core/stills/registry'
import type { StillHead } from '../../core/stills/still'
import { fail } from '../../core/problem'
import { makeRate } from '../../core/time/rate'
import { canDropFrame, formatTimecode, timecodeToFrames } from '../../core/time/timecode'
import { openFile } from './disk'
import { statMedia } from './fileset'
import { stillLibrary } from './stilllibrary'

/** Media opened for reading: one file, a run of numbered stills, or mono sound files that are one set. */
export interface MediaFileOpened {
  readonly info: MediaInfo
  /** The container, where there is one file. */
  readonly media: Media | null
  pictures(codecs: WebCodecs | null): PictureSource
  sound(codecs: WebCodecs | null): SoundSource | null
  close(): Promise<void>
}

/**
 * Opens media by its full path and the name to speak of it by. `weights` are those of luma that R′G′B′ of stills get;
 * without them those of the colour that they state.
 */
export async function openMediaFile(full: string, name: string, weights?: LumaWeights): Promise<MediaFileOpened> {
  const opened = await openAny(full, name, weights)
  return { ...opened, info: { ...opened.info, edition: describedEdition } }
}

async function openAny(full: string, name: string, weights?: LumaWeights): Promise<MediaFileOpened> {
  const files = filesOf(full)
  if (files) return isRun(full) ? openStills(files, full, name, weights) : openSet(files, name)
  if (stillFormatOf(full)) return openStills([full], full, name, weights)
  const source = await openFile(full, name)
  try {
    const media = await openMedia(source)
    return {
      info: media.info,
      media,
      pictures: (codecs) => openPictures(media, codecs),
      sound: (codecs) => openSound(media, codecs),
      close: () => source.close(),
    }
  } catch (e) {
    await source.close()
    throw e
  }
}

/** One still as a picture, 10 bit where it has more than 8. */
async function readStill(file: string, given?: LumaWeights): Promise<StillHead & { readonly picture: Picture }> {
  const name = path.basename(file)
  const { head, picture } = await stillFormatOf(file)!.read(await readFile(file), name, stillLibrary)
  const weights = given ?? lumaWeights((head.colour ?? bt709).matrix)
  return { ...head, picture: pictureOfRgb(picture, head.bitDepth > 8 ? 10 : 8, weights) }
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

async function openStills(
  files: readonly string[],
  full: string,
  name: string,
  weights?: LumaWeights,
): Promise<MediaFileOpened> {
  const first = await readStill(files[0]!, weights)
  const rate = rateOfRun(full) ?? first.rate ?? makeRate(25)
  const base = { rate, dropFrame: first.dropFrame && canDropFrame(rate) }
  // without a timecode of its own a run counts by its numbers
  const start = (first.timecode && timecodeToFrames(...first.timecode, base)) ?? firstNumber(full)
  const { size } = await statMedia(full)
  const info: MediaInfo = {
    container: 'stills',
    indexAt: 'front',
    size,
    durationFrames: files.length,
    durationSeconds: (files.length * rate.den) / rate.num,
    timecode: { start: formatTimecode(start, base), startFrames: start, ...base },
    audio: [],
    data: [],
    chapters: [],
    bext: null,
    problems: [...(first.alpha ? ['It has an alpha channel, which is left out.'] : []), ...first.notes].map(
      (message) => ({
        ...{ code: 'stills.said', message, where: name },
        fix: 'Ask for other files if that matters.',
      }),
    ),
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
        chroma: '4:4:4',
        bitDepth: first.bitDepth,
        pixelAspect: first.pixelAspect ?? '1:1',
        ...(first.alpha ? { alpha: true as const } : {}),
        colour: first.colour,
        // a still says all of itself in one place
        contradictions: [],
        frames: files.length,
        intra: true,
        webCodec: null,
      },
    ],
  }
  return {
    info,
    media: null,
    sound: () => null,
    close: () => Promise.resolve(),
    pictures: () => ({
      frames: files.length,
      async *read(range) {
        for (let frame = range.in; frame < range.out; frame++) {
          const still = await readStill(files[frame]!, weights)
          needAlike(still, first, path.basename(files[frame]!))
          yield { frame, picture: still.picture }
        }
      },
    }),
  }
}

/** Mono files as one set of channels: they begin together and run at one rate. */
async function openSet(files: readonly string[], name: string): Promise<MediaFileOpened> {
  const opened: MediaFileOpened[] = []
  const close = async () => void (await Promise.all(opened.map((o) => o.close())))
  try {
    for (const f of files) opened.push(await openMediaFile(f, path.basename(f)))
    const parts = opened.map((o) => o.info.audio[0] ?? fail('set.no-sound', 'A file of the set holds no sound.', name))
    const lead = parts[0]!
    if (parts.some((p) => p.sampleRate !== lead.sampleRate))
      fail(
        'set.mixed',
        'The files of this set run at different sample rates.',
        name,
        'Ask for one sample rate throughout.',
      )
    const samples = Math.max(...parts.map((p) => p.samples))
    const channels = parts.reduce((n, p) => n + p.channels, 0)
    const audio: AudioInfo = {
      ...lead,
      channels,
      samples,
      layout: null,
      bitDepth: Math.max(...parts.map((p) => p.bitDepth)),
    }
    const uneven = parts.some((p) => p.samples !== samples)
    const { bext, ...first } = opened[0]!.info
    const info: MediaInfo = {
      ...first,
      // what one of them states of its own sound is not said of all
      bext: bext && { ...bext, loudness: null },
      size: opened.reduce((n, o) => n + o.info.size, 0),
      durationSeconds: samples / lead.sampleRate,
      audio: [audio],
      problems: uneven
        ? [
            {
              code: 'set.uneven',
              message: 'The files of this set are not equally long; the shorter ones end in silence.',
              where: name,
              fix: 'Check that they belong together.',
            },
          ]
        : [],
    }
    return {
      info,
      media: null,
      pictures: () => fail('media.no-pictures', 'There are no pictures in this file.', name),
      close,
      sound(codecs) {
        const sounds = opened.map((o) => o.sound(codecs)!)
        return {
          channels,
          sampleRate: lead.sampleRate,
          samples,
          read: async (from, count) => (await Promise.all(sounds.map((s) => s.read(from, count)))).flat(),
        }
      },
    }
  } catch (e) {
    await close()
    throw e
  }
}
