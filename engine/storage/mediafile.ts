import { readFile } from 'node:fs/promises'
import path from 'node:path'
import sharp from 'sharp'
import type { PictureSource, SoundSource } from '../../core/codec/codec'
import { openPictures } from '../../core/codec/pictures'
import { openSound } from '../../core/codec/sound'
import type { WebCodecs } from '../../core/codec/web/webcodecs'
import { stillFormatOf } from '../../core/container/stills/formats'
import { readDpx } from '../../core/container/stills/dpx'
import { bt709 } from '../../core/media/colour'
import type { AudioInfo, Media, MediaInfo } from '../../core/media/media'
import { openMedia } from '../../core/container/registry'
import { pictureFromRgb, type Picture } from '../../core/picture/picture'
import { fail } from '../../core/problem'
import { makeRate } from '../../core/time/rate'
import { formatTimecode, timecodeToFrames } from '../../core/time/timecode'
import { openFile } from './disk'
import { filesOf, firstNumber, isRun, rateOfRun, statMedia } from './fileset'

/** Media opened for reading: one file, a run of numbered stills, or mono sound files that are one set. */
export interface MediaFileOpened {
  readonly info: MediaInfo
  /** The container, where there is one file. */
  readonly media: Media | null
  pictures(codecs: WebCodecs | null): PictureSource
  sound(codecs: WebCodecs | null): SoundSource | null
  close(): Promise<void>
}

/** Opens media by its full path and the name to speak of it by. */
export async function openMediaFile(full: string, name: string): Promise<MediaFileOpened> {
  const files = filesOf(full)
  if (files) return isRun(full) ? openStills(files, full, name) : openSet(files, name)
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

const stillCodec = (file: string) => stillFormatOf(file)?.codec ?? 'png'

/** One still as a picture, 10 bit where it has more than 8. */
async function readStill(file: string, name: string): Promise<Picture> {
  const bytes = await readFile(file)
  if (stillCodec(file) === 'dpx') {
    const p = readDpx(bytes, name)
    return pictureFromRgb(p.rgb, p.width, p.height, p.bitDepth > 8 ? 10 : 8)
  }
  try {
    const image = sharp(bytes, { failOn: 'error', limitInputPixels: 1 << 28 })
      .toColourspace('rgb16')
      .removeAlpha()
    const deep = (await sharp(bytes).metadata()).depth === 'ushort'
    const { data, info } = await image.raw({ depth: 'ushort' }).toBuffer({ resolveWithObject: true })
    const rgb = new Uint16Array(data.buffer, data.byteOffset, data.length >> 1)
    return pictureFromRgb(rgb, info.width, info.height, deep ? 10 : 8)
  } catch (e) {
    return fail(
      'stills.undecodable',
      `A still cannot be read: ${(e as Error).message.split('\n')[0]!.slice(0, 120)}`,
      name,
      'Copy it again, or ask for it anew.',
    )
  }
}

async function openStills(files: readonly string[], full: string, name: string): Promise<MediaFileOpened> {
  const codec = stillCodec(full)
  const first = await readStill(files[0]!, path.basename(files[0]!))
  const head = codec === 'dpx' ? readDpx(await readFile(files[0]!), name, true) : null
  const rate = rateOfRun(full) ?? head?.rate ?? makeRate(25)
  const base = { rate, dropFrame: false }
  // without a timecode of its own a run counts by its numbers
  const start = (head?.timecode && timecodeToFrames(...head.timecode, base)) ?? firstNumber(full)
  const { size } = await statMedia(full)
  const info: MediaInfo = {
    container: 'stills',
    indexAt: 'front',
    size,
    durationFrames: files.length,
    durationSeconds: (files.length * rate.den) / rate.num,
    timecode: { start: formatTimecode(start, base), startFrames: start, ...base },
    audio: [],
    chapters: [],
    bext: null,
    problems: [],
    video: [
      {
        codec,
        profile: null,
        level: null,
        width: first.width,
        height: first.height,
        rate,
        rateStated: head?.rate != null,
        constantRate: true,
        scan: 'progressive',
        chroma: '4:2:2',
        bitDepth: first.bitDepth,
        pixelAspect: '1:1',
        // as readStill makes them
        colour: first.height >= 720 ? bt709 : { primaries: 5, transfer: 6, matrix: 6, fullRange: false },
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
        for (let frame = range.in; frame < range.out; frame++)
          yield { frame, picture: await readStill(files[frame]!, path.basename(files[frame]!)) }
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
    const info: MediaInfo = {
      ...opened[0]!.info,
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
