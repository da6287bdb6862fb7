import { cpSync, mkdirSync } from 'node:fs'
import path from 'node:path'
import { openPictures } from '../core/codec/pictures'
import { cutSet, scoreCuts } from '../core/analysis/cutset'
import { cutFinder } from '../core/analysis/cuts'
import { pictureMeters } from '../core/analysis/pictures'
import { tracer, traceOf } from '../core/analysis/trace'
import { openMedia } from '../core/container/registry'
import type { Media } from '../core/media/media'
import { makeRate } from '../core/time/rate'
import { readInterchange, writeInterchange } from '../core/timeline/formats/registry'
import { normalSpeed, type Timeline, type TimelineEvent } from '../core/timeline/model'
import { makeReel, type ReelPlan } from '../demo/reel'
import { machineCodecs } from '../engine/worker/codecs'
import { Session } from '../engine/session'
import { openFile } from '../engine/storage/disk'
import { segmentLength } from '../engine/storage/framestore'

type Print = (name: string, figures: string) => void
const rate = makeRate(25)

/** Reading a list of ten thousand events, in each format that holds events. */
export function reading(print: Print): void {
  const events = Array.from({ length: 10_000 }, (_, i): TimelineEvent => ({
    track: 'V',
    kind: 'video',
    name: `shot ${i}`,
    reel: `CARD_${i % 40}`,
    file: null,
    source: { in: i * 30, out: i * 30 + 20, rate },
    speed: normalSpeed,
    record: { in: i * 20, out: i * 20 + 20 },
    transition: i % 7 === 3 ? { kind: 'dissolve', frames: 8 } : null,
  }))
  const timeline: Timeline = {
    name: 'long',
    rate,
    dropFrame: false,
    start: 90_000,
    length: 200_000,
    tracks: [{ name: 'V', kind: 'video' }],
    events,
    markers: [],
  }
  for (const format of ['edl', 'otio', 'cpl', 'csv'] as const) {
    const { text } = writeInterchange({ timeline }, format)
    readInterchange(text, 'warm', rate)
    const began = performance.now()
    const read = readInterchange(text, 'list', rate)
    print(
      `reading 10 000 events as ${format}`,
      `${Math.round(performance.now() - began)} ms, ${(text.length / 1e6).toFixed(1)} MB, ` +
        `${read.timeline.events.length} events`,
    )
  }
}

/** The pass over the pictures of a minute of 1080-line H.264: against real time, and against decoding alone. */
export async function passing(folder: string, print: Print): Promise<void> {
  const storage = path.join(folder, 'pass')
  mkdirSync(storage, { recursive: true })
  const file = path.join(storage, 'minute.mov')
  await makeReel(file, minute(), machineCodecs())
  const source = await openFile(file)
  const media = await openMedia(source)
  await decodingAndMeasuring(media, print)
  await oneFrameAnywhere(media, print)
  await source.close()
  await wholePass(folder, storage, print)
}

const minuteFrames = 1500
const minute = (): ReelPlan => ({
  width: 1920,
  height: 1080,
  rate,
  dropFrame: false,
  start: 0,
  pictures: 'h264',
  sound: 'pcm',
  container: 'mov',
  bitrate: 12_000_000,
  channels: [new Float32Array(minuteFrames * 1920), new Float32Array(minuteFrames * 1920)],
  shots: (['chainWide', 'gannets', 'bell', 'lowWater', 'lastBoat'] as const).map((scene) => ({
    scene,
    frames: minuteFrames / 5,
    name: scene,
    reel: scene,
  })),
})

async function processor(action: () => Promise<void>): Promise<{ wall: number; used: number }> {
  const before = process.cpuUsage()
  const began = performance.now()
  await action()
  const u = process.cpuUsage(before)
  return { wall: performance.now() - began, used: (u.user + u.system) / 1000 }
}

async function decodingAndMeasuring(media: Media, print: Print): Promise<void> {
  const range = { in: 0, out: minuteFrames }
  const decode = await processor(async () => {
    for await (const { picture } of openPictures(media, machineCodecs()).read(range))
      if (picture.width === 0) throw new Error()
  })
  const measured = await processor(async () => {
    const meters = pictureMeters(media.info.video[0]!)
    const { take } = tracer()
    for await (const { picture } of openPictures(media, machineCodecs()).read(range)) meters.feed(take(picture))
    meters.result()
  })
  print(
    'decoding a minute of 1080-line H.264',
    `${(60_000 / decode.wall).toFixed(1)} × real time, ${Math.round(decode.used)} ms of processor`,
  )
  print(
    'all measures of pictures against decoding',
    `${((measured.used - decode.used) / decode.used).toFixed(2)} × (${Math.round(measured.used - decode.used)} ` +
      `ms beside ${Math.round(decode.used)} ms)`,
  )
}

async function oneFrameAnywhere(media: Media, print: Print): Promise<void> {
  const waits: number[] = []
  for (let i = 0; i < 200; i++) {
    const n = (i * 7919) % minuteFrames
    const began = performance.now()
    for await (const { frame } of openPictures(media, machineCodecs()).read({ in: n, out: n + 1 }))
      if (frame !== n) throw new Error('another frame came')
    waits.push(performance.now() - began)
  }
  waits.sort((a, b) => a - b)
  print(
    'one frame anywhere, group of 25',
    `${waits[100]!.toFixed(0)} ms median, ${waits.at(-1)!.toFixed(0)} ms worst of 200`,
  )
}

async function wholePass(folder: string, storage: string, print: Print): Promise<void> {
  const engine = await Session.open({ data: path.join(folder, 'pass-data'), roots: [storage], workers: 2 })
  const root = engine.roots.list[0]!.name
  const began = performance.now()
  const t = await engine.timelines.bringIn({ root, path: 'minute.mov' })
  const usable = performance.now() - began
  for (;;) {
    const a = await engine.viewing.analysis(t)
    if (a.pictures && a.sound) break
    await new Promise((r) => setTimeout(r, 50))
  }
  const whole = performance.now() - began
  print(
    'the pass over it, previews and all, 2 workers',
    `${(60_000 / whole).toFixed(1)} × real time, ${Math.ceil(minuteFrames / segmentLength)} segments; usable after ` +
      `${Math.round(usable)} ms`,
  )
  cpSync(path.join(storage, 'minute.mov'), path.join(storage, 'again.mov'))
  const second = performance.now()
  const again = await engine.timelines.bringIn({ root, path: 'again.mov' })
  const known = await engine.viewing.analysis(again)
  print(
    'bringing in known media again',
    `${Math.round(performance.now() - second)} ms, ${known.pictures && known.sound ? 'everything known' : 'not known'}`,
  )
  await engine.close()
}

/** The cut finder over its labelled set. */
export function cutting(print: Print): void {
  const reels = cutSet()
  const traces = reels.map((r) => Array.from({ length: r.frames }, (_, n) => traceOf(r.picture(n))))
  const frames = traces.reduce((n, t) => n + t.length, 0)
  const began = performance.now()
  const found = traces.map((list) => {
    const finder = cutFinder()
    for (const t of list) finder.feed(t)
    return finder.result()
  })
  const spent = performance.now() - began
  const f1 = (of: 'hard' | 'gradual') => {
    const sum = { hit: 0, missed: 0, wrong: 0 }
    reels.forEach((r, i) => {
      const s = scoreCuts(r.truth, found[i]!)[of]
      for (const k of ['hit', 'missed', 'wrong'] as const) sum[k] += s[k]
    })
    return (2 * sum.hit) / (2 * sum.hit + sum.missed + sum.wrong)
  }
  print(
    'cut finder on traces',
    `${(frames / 25 / (spent / 1000)).toFixed(0)} × real time; F1 ${f1('hard').toFixed(3)} for cuts, ` +
      `${f1('gradual').toFixed(3)} for dissolves and fades`,
  )
}
