import { concatBytes, Writer } from '../../bytes'
import { pictureCodec, soundCodec } from '../../codec/registry'
import { fail } from '../../problem'
import { aspectValue } from '../../media/aspect'
import type { AudioEssence, FilePlan, Layout, TrackPlan, VideoEssence } from '../container'
import { aacEntry, pcm24Entry, pictureEntry, tmcdEntry } from './entrywriter'
import { chapterTrack } from './chapters'
import type { Movie, WrapTrack } from './movie'
import { movieHead } from './write'

/** Bytes that the timecode's only sample takes at the beginning of the media data. */
const timecodeBytes = 16

/** Lays an MP4 or MOV file out with its index in front; the timecode's sample is the first of the media data. */
export function layout(brand: string, plan: FilePlan): Layout {
  const kind: Movie['brand'] = brand === 'mp4' ? 'mp4' : 'mov'
  const dataSize = timecodeBytes + plan.dataSize
  const chapters = chapterTrack(plan.chapters, plan.frames, plan.rate, kind, dataSize)
  const timecode: WrapTrack = {
    kind: 'timecode',
    timescale: plan.rate.num,
    sampleEntry: tmcdEntry(plan.rate, plan.start.dropFrame, plan.reel),
    sizes: { constant: 4, count: 1 },
    durations: { constant: plan.frames * plan.rate.den },
    chunks: [{ offset: 0, samples: 1 }],
  }
  const head = movieHead({
    brand: kind,
    tracks: [...plan.tracks.map((t) => wrapped(t, kind)), timecode, ...(chapters ? [chapters.track] : [])],
    dataSize: dataSize + (chapters?.bytes.length ?? 0),
  })
  return {
    head: concatBytes([
      head,
      new Writer()
        .u32(plan.start.frames)
        .zero(timecodeBytes - 4)
        .bytes(),
    ]),
    tail: chapters?.bytes ?? new Uint8Array(0),
  }
}

function wrapped({ essence, chunks, ...track }: TrackPlan, brand: Movie['brand']): WrapTrack {
  return {
    ...track,
    ...(essence.kind === 'video' ? sizeOf(essence) : {}),
    kind: essence.kind,
    sampleEntry: 'native' in essence ? essence.native.bytes : entryOf(essence, brand),
    chunks: chunks.map((c) => ({ offset: c.offset + timecodeBytes, samples: c.samples })),
  }
}

function sizeOf(e: { readonly width?: number; readonly height?: number; readonly pixelAspect?: string }) {
  const [width, height] = [e.width ?? 0, e.height ?? 0]
  return { width, height, displayWidth: width * aspectValue(e.pixelAspect ?? '1:1') }
}

const soundEntries: Readonly<Record<string, (a: AudioEssence) => Uint8Array>> = {
  in24: (a) => pcm24Entry(a.channels, a.sampleRate, a.layout),
  mp4a: (a) => aacEntry(a.channels, a.sampleRate, a.configuration ?? new Uint8Array(0), a.bitrate),
}

/** The sample entry of an essence, called as its codec says. */
function entryOf(e: VideoEssence | AudioEssence, brand: Movie['brand']): Uint8Array {
  const calls = (e.kind === 'video' ? pictureCodec(e.codec) : soundCodec(e.codec))?.calls.mp4
  const name = calls?.entries[0]
  if (e.kind === 'video' && name) return pictureEntry(name, e, calls.box ?? null, brand)
  const write = e.kind === 'audio' && name ? soundEntries[name] : undefined
  if (write && e.kind === 'audio') return write(e)
  return fail(
    'mp4.no-entry',
    `Essence of kind “${e.codec}” cannot be written into ${brand.toUpperCase()} here.`,
    undefined,
    'Choose another recipe.',
  )
}
