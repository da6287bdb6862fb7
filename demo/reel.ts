import type { WebCodecs } from '../core/codec/web/webcodecs'
import { concatBytes } from '../core/bytes'
import { encodePcm } from '../core/codec/pcm/pcm'
import { encodeV210, v210Size } from '../core/codec/v210/v210'
import type { Picture } from '../core/picture/picture'
import { glyphAt } from '../core/picture/burnin'
import type { EncodedUnit } from '../core/codec/codec'
import { pictureCodec, soundCodec } from '../core/codec/registry'
import { sampleAtFrame } from '../core/time/samples'
import { nominalRate, type Frames, type Rate, type Samples } from '../core/time/rate'
import { formatTimecode } from '../core/time/timecode'
import type { TrackPlan } from '../core/container/container'
import { mp4 } from '../core/container/mp4/container'
import { fileSink } from '../engine/storage/disk'
import { Painter } from './paint'
import { scenes, type SceneName } from './scenes'

/** One shot of a reel: what it shows, and faults planted in it (frames from the shot's start). */
export interface ReelShot {
  readonly scene: SceneName
  readonly frames: Frames
  readonly name: string
  readonly reel: string
  readonly black?: { readonly at: Frames; readonly frames: Frames }
  readonly freeze?: { readonly at: Frames; readonly frames: Frames }
  readonly flashes?: { readonly at: Frames; readonly frames: Frames }
  /** Without the drawn timecode and frame number. */
  readonly clean?: boolean
}

export interface ReelPlan {
  readonly width: number
  readonly height: number
  readonly rate: Rate
  readonly dropFrame: boolean
  readonly start: Frames
  readonly shots: readonly ReelShot[]
  readonly pictures: 'h264' | 'v210'
  readonly sound: 'pcm' | 'aac'
  readonly container: 'mov' | 'mp4'
  readonly bitrate: number
  /** Channels of the whole reel at 48 kHz. */
  readonly channels: readonly Float32Array[]
}

/** Where the frame number stands, in painter's units, so that a test can read it back. */
export const counter = { x: 1130, y: 790, size: 72, digits: 6 } as const

/** Draws frame `n` of a reel. */
export function drawFrame(
  plan: Pick<ReelPlan, 'width' | 'height' | 'rate' | 'dropFrame' | 'start' | 'shots'>,
  n: Frames,
): Picture {
  let at = 0
  let shot = plan.shots[0]!
  for (const s of plan.shots) {
    if (n < at + s.frames) {
      shot = s
      break
    }
    at += s.frames
  }
  let k = n - at
  const p = new Painter(plan.width, plan.height)
  const inside = (r: { at: Frames; frames: Frames } | undefined) => r !== undefined && k >= r.at && k < r.at + r.frames
  if (inside(shot.black)) return p.picture
  if (inside(shot.freeze)) k = shot.freeze!.at
  scenes[shot.scene](p, (k * plan.rate.den) / plan.rate.num)
  if (inside(shot.flashes) && Math.floor((k - shot.flashes!.at) / 2) % 2 === 0) p.rect(0, 0, 1600, 900, '#fbfbff')
  if (shot.scene !== 'black' && !shot.clean) {
    p.box(70, counter.y - 14, 1460, counter.size + 28)
    p.text(formatTimecode(plan.start + at + k, plan), 96, counter.y, counter.size)
    p.text(String(at + k).padStart(counter.digits, '0'), counter.x, counter.y, counter.size)
  }
  return p.picture
}

/**
 * Reads the frame number drawn in a picture by comparing each digit with the ten that could be there; null when none
 * fits well.
 */
export function readCounter(luma: Uint8Array | Uint16Array, width: number, depth: 8 | 10 = 8): number | null {
  const scale = width / 1600
  const height = Math.max(8, Math.round(counter.size * scale))
  const cell = glyphAt(48, height).width
  let value = 0
  for (let d = 0; d < counter.digits; d++) {
    const left = Math.round(counter.x * scale) + d * cell
    const top = Math.round(counter.y * scale)
    const errors = Array.from({ length: 10 }, (_, digit) => {
      const { coverage } = glyphAt(48 + digit, height)
      let error = 0
      for (let y = 0; y < height; y++)
        for (let x = 0; x < cell; x++)
          error += Math.abs(
            (luma[(top + y) * width + left + x]! >> (depth - 8)) - (22 + (213 * coverage[y * cell + x]!) / 255),
          )
      return error / (height * cell)
    })
    const best = errors.indexOf(Math.min(...errors))
    if (errors[best]! > 40) return null
    value = value * 10 + best
  }
  return value
}

/** What a reel is made of while it is written: coded pictures and sound, where they are not made on the way. */
interface Essence {
  readonly total: Frames
  readonly samples: Samples
  readonly pictures: { readonly units: readonly EncodedUnit[]; readonly configuration: Uint8Array | null } | null
  readonly sound: { readonly packets: readonly Uint8Array[]; readonly configuration: Uint8Array | null } | null
}

const sampleRate = 48000

/** Encodes and writes a reel with the project's own writers. `progress` counts frames. */
export async function makeReel(
  file: string,
  plan: ReelPlan,
  codecs: WebCodecs | null,
  progress: (frames: Frames) => void = () => undefined,
): Promise<void> {
  const total = plan.shots.reduce((n, s) => n + s.frames, 0)
  const essence: Essence = {
    total,
    samples: sampleAtFrame(total, plan.rate, sampleRate),
    pictures: plan.pictures === 'h264' ? await encodePictures(plan, total, codecs, progress) : null,
    sound: plan.sound === 'aac' ? await encodeAac(plan.channels, sampleRate, codecs) : null,
  }
  const woven = weave(plan, essence, progress)
  const { head } = mp4.layout!(plan.container, {
    tracks: tracksOf(plan, essence, woven),
    frames: total,
    rate: plan.rate,
    start: { frames: plan.start, dropFrame: plan.dropFrame },
    chapters: [],
    dataSize: woven.size,
  })
  const sink = await fileSink(file)
  await sink.write(0, head)
  let position = head.length
  for (const job of woven.jobs) {
    const bytes = await job()
    await sink.write(position, bytes)
    position += bytes.length
  }
  await sink.finish()
}

async function encodePictures(
  plan: ReelPlan,
  total: Frames,
  codecs: WebCodecs | null,
  progress: (frames: Frames) => void,
): Promise<NonNullable<Essence['pictures']>> {
  const { width, height, rate, bitrate } = plan
  const encoder = pictureCodec('h264')!.encode!.open({ width, height, rate, bitrate, hurry: true }, codecs)
  const units: EncodedUnit[] = []
  for (let n = 0; n < total; n++) {
    await encoder.feed(drawFrame(plan, n))
    units.push(...encoder.take())
    progress(n)
  }
  await encoder.flush()
  units.push(...encoder.take())
  const configuration = encoder.configuration()
  encoder.close()
  return { units, configuration }
}

interface Woven {
  readonly videoChunks: { offset: number; samples: number }[]
  readonly soundChunks: { offset: number; samples: number }[]
  /** Each gives the next bytes of the file's data. */
  readonly jobs: (() => Promise<Uint8Array>)[]
  readonly size: number
}

/** Lays pictures and sound beside each other, half a second of each in turn. */
function weave(plan: ReelPlan, e: Essence, progress: (frames: Frames) => void): Woven {
  const { total, pictures, sound } = e
  const half = Math.round(nominalRate(plan.rate) / 2)
  const videoChunks: Woven['videoChunks'] = []
  const soundChunks: Woven['soundChunks'] = []
  const jobs: Woven['jobs'] = []
  const at = (n: Frames) => sampleAtFrame(n, plan.rate, sampleRate)
  let size = 0
  let packet = 0
  for (let n = 0; n < total; n += half) {
    const end = Math.min(total, n + half)
    videoChunks.push({ offset: size, samples: end - n })
    for (let i = n; i < end; i++) {
      jobs.push(async () => {
        if (pictures) return pictures.units[i]!.bytes
        progress(i)
        return encodeV210(drawFrame(plan, i))
      })
      size += pictures ? pictures.units[i]!.bytes.length : v210Size(plan.width, plan.height)
    }
    if (sound) {
      const due = end === total ? Infinity : Math.ceil((at(end) + aac.priming) / aac.packetSamples)
      const until = Math.min(sound.packets.length, due)
      const part = concatBytes(sound.packets.slice(packet, until))
      if (until > packet) soundChunks.push({ offset: size, samples: until - packet })
      jobs.push(async () => part)
      size += part.length
      packet = until
    } else {
      soundChunks.push({ offset: size, samples: at(end) - at(n) })
      const block = plan.channels.map((c) => c.subarray(at(n), at(end)))
      jobs.push(async () => encodePcm(block, 24, false))
      size += (at(end) - at(n)) * plan.channels.length * 3
    }
  }
  return { videoChunks, soundChunks, jobs, size }
}

function tracksOf(plan: ReelPlan, e: Essence, woven: Woven): TrackPlan[] {
  const { total, samples, pictures, sound } = e
  const video: TrackPlan = {
    essence: {
      kind: 'video',
      codec: plan.pictures,
      width: plan.width,
      height: plan.height,
      pixelAspect: '1:1',
      colour: null,
      scan: 'progressive',
      configuration: pictures?.configuration ?? null,
    },
    timescale: plan.rate.num,
    durations: { constant: plan.rate.den },
    chunks: woven.videoChunks,
    ...(pictures
      ? {
          sizes: Uint32Array.from(pictures.units, (v) => v.bytes.length),
          sync: Uint8Array.from(pictures.units, (v) => (v.sync ? 1 : 0)),
        }
      : { sizes: { constant: v210Size(plan.width, plan.height), count: total } }),
  }
  const audio: TrackPlan = {
    essence: {
      kind: 'audio',
      codec: plan.sound,
      channels: plan.channels.length,
      sampleRate,
      layout: null,
      configuration: sound?.configuration ?? null,
      bitrate: aacBitrate,
    },
    timescale: sampleRate,
    chunks: woven.soundChunks,
    ...(sound
      ? {
          sizes: Uint32Array.from(sound.packets, (p) => p.length),
          durations: { constant: aac.packetSamples },
          edit: { mediaTime: aac.priming, duration: samples },
        }
      : { sizes: { constant: 3 * plan.channels.length, count: samples }, durations: { constant: 1 } }),
  }
  return plan.channels.length > 0 ? [video, audio] : [video]
}

const aac = soundCodec('aac')!.encode!
const aacBitrate = 192_000

async function encodeAac(
  channels: readonly Float32Array[],
  sampleRate: number,
  codecs: WebCodecs | null,
): Promise<{ packets: Uint8Array[]; configuration: Uint8Array | null }> {
  const encoder = aac.open({ channels: channels.length, sampleRate, bitrate: aacBitrate }, codecs)
  const total = channels[0]!.length
  for (let at = 0; at < total; at += sampleRate)
    await encoder.feed(channels.map((c) => c.subarray(at, Math.min(total, at + sampleRate))))
  await encoder.flush()
  const packets = encoder.take().map((u) => u.bytes)
  encoder.close()
  return { packets, configuration: encoder.configuration() }
}

/** The reel's cuts as an edit decision list (ST 258). */
export function reelEdl(plan: Pick<ReelPlan, 'rate' | 'dropFrame' | 'start' | 'shots'>, title: string): string {
  const lines = [`TITLE: ${title}`, `FCM: ${plan.dropFrame ? 'DROP FRAME' : 'NON-DROP FRAME'}`, '']
  let at = plan.start
  plan.shots.forEach((s, i) => {
    const tc = (n: number) => formatTimecode(n, plan)
    lines.push(
      `${String(i + 1).padStart(3, '0')}  ${s.reel.padEnd(8)} V     C        ${tc(0)} ${tc(s.frames)} ` +
        `${tc(at)} ${tc(at + s.frames)}`,
      `* FROM CLIP NAME: ${s.name}`,
    )
    at += s.frames
  })
  return `${lines.join('\n')}\n`
}
