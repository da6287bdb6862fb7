import path from 'node:path'
import type { PictureSource, SoundSource } from '../../core/codec/codec'
import { openPictures } from '../../core/codec/pictures'
import { besideEachOther, openSound } from '../../core/codec/sound'
import type { WebCodecs } from '../../core/codec/web/webcodecs'
import { filesOf, isRun } from '../../core/files/fileset'
import type { LumaWeights } from '../../core/media/colour'
import { describedEdition, type AudioInfo, type Media, type MediaInfo } from '../../core/media/media'
import type { FrameTimecode } from '../../core/media/timecodes'
import { openMedia } from '../../core/container/registry'
import { stillFormatOf } from '../../core/stills/registry'
import { fail } from '../../core/problem'
import type { Frames } from '../../core/time/rate'
import { openFile } from './disk'
import { openStills } from './stillrun'

/** Media opened for reading: one file, a run of numbered stills, or mono sound files that are one set. */
export interface MediaFileOpened {
  readonly info: MediaInfo
  /** The container, where there is one file. */
  readonly media: Media | null
  /** The bytes of a still of a run, or of one: held to be whole and as the first is. Absent where there are none. */
  still?(frame: Frames): Promise<Uint8Array>
  /** Its bytes as they stand. */
  stillAsIs?(frame: Frames): Promise<Uint8Array>
  /** Timecodes of stills; those of one file are its container's. */
  readonly timecodes?: readonly FrameTimecode[]
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
          read: besideEachOther(sounds),
        }
      },
    }
  } catch (e) {
    await close()
    throw e
  }
}
