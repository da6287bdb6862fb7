import { aac } from './aac/codec'
import { av1 } from './av1/codec'
import type { Calls, PictureCodec, SoundCodec } from './codec'
import { flac } from './flac/codec'
import { h264 } from './h264/codec'
import { h264Intra } from './h264-intra/codec'
import { hevc } from './hevc/codec'
import { mpeg2 } from './mpeg2/codec'
import { opus } from './opus/codec'
import { pcm } from './pcm/codec'
import { rdd36 } from './rdd36/codec'
import { uyvy } from './uyvy/codec'
import { v210 } from './v210/codec'
import { vp8 } from './vp8/codec'
import { vp9 } from './vp9/codec'
import { stillFormats } from '../stills/registry'
import { listed } from '../text'

/** Picture codecs that are known: a new one is its folder and its line here. */
export const pictureCodecs: PictureCodec[] = [h264, h264Intra, hevc, mpeg2, rdd36, vp8, vp9, av1, v210, uyvy]

/** Sound codecs that are known. */
export const soundCodecs: SoundCodec[] = [pcm, aac, opus, flac]

export function pictureCodec(name: string): PictureCodec | null {
  return pictureCodecs.find((c) => c.name === name) ?? null
}

export function soundCodec(name: string): SoundCodec | null {
  return soundCodecs.find((c) => c.name === name) ?? null
}

type Namespace = keyof Calls
const namesIn = (calls: Calls, container: Namespace): readonly string[] => calls[container]?.entries ?? []

/** The codec that a container calls by a name of its own; null when it is none of ours. */
export function pictureCodecCalled(container: keyof Calls, name: string): PictureCodec | null {
  return pictureCodecs.find((c) => namesIn(c.calls, container).includes(name)) ?? null
}

export function soundCodecCalled(container: keyof Calls, name: string): SoundCodec | null {
  return soundCodecs.find((c) => namesIn(c.calls, container).includes(name)) ?? null
}

const codecNamed = (name: string) =>
  pictureCodec(name) ?? soundCodec(name) ?? stillFormats.find((f) => f.codec === name) ?? null

/** What codecs of pictures, stills among them, and of sound are called here. */
export const pictureNames = () => [...pictureCodecs.map((c) => c.name), ...stillFormats.map((f) => f.codec)]
export const soundNames = () => soundCodecs.map((c) => c.name)

/** What people call a codec; its own name where it is none of ours. */
export const codecLabel = (name: string): string => codecNamed(name)?.label ?? name

/** Whether any machine could decode a codec. */
export const isKnownCodec = (name: string): boolean => codecNamed(name) !== null

/** What people call codecs, as a list: `H.264, HEVC or VP9`. */
export function labels(list: readonly { readonly label: string }[]): string {
  return listed(
    list.map((c) => c.label),
    'or',
  )
}
