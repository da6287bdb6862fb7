import { createHash } from 'node:crypto'
import { mkdtempSync } from 'node:fs'
import { open, readFile, rm, truncate, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import type { ByteSource } from '../core/bytes'
import { encodeV210, v210Size } from '../core/codec/v210/v210'
import { openMedia } from '../core/container/registry'
import { fail } from '../core/problem'
import type { Recipe } from '../core/recipe/recipe'
import { scalePlain, scalers } from '../core/kernel/scale'
import { toChroma420, toDepth } from '../core/picture/picture'
import { fitPicture } from '../core/picture/scale'
import { shippedRecipes } from '../core/recipe/registry'
import { plainMov } from '../tests/plainmov'
import { makeRate } from '../core/time/rate'
import { drawFrame } from '../demo/reel'
import { Session } from '../engine/session'
import { fileSink, openFile } from '../engine/storage/disk'
import { soundMeter } from '../core/analysis/sound'
import { SoundTracer } from '../core/analysis/soundtrace'
import { broadcast } from './broadcast'
import { cutting, passing, reading } from './bringin'
import { copying, sixteenTracks } from './copying'
import { taking } from './taking'
import { joining } from './joining'
import { desk } from './desk'
import { elsewhere } from './elsewhere'
import { forecasting } from './forecast'
import { lengths, memory } from './memory'
import { splitting } from './splitting'
import { stages } from './stages'
import { stills } from './stills'
import { stepping } from './stepping'
import { measureWire, wire } from './wire'

// Ratios measured in one run on this machine: what a thing costs against a limit that means something.

const print = (name: string, figures: string) => console.log(`${name.padEnd(46)} ${figures}`)
const [only, wireFolder] = process.argv.slice(2)
if (only === 'wire') {
  await measureWire(wireFolder!, print)
  process.exit(0)
}
const folder = mkdtempSync(path.join(process.env.VELVET_BENCH ?? tmpdir(), 'velvet-bench-'))
const rate = makeRate(25)
const recipe = (kind: Recipe['kind']): Recipe => shippedRecipes().find((r) => r.kind === kind)!

/** A MOV of uncompressed 1080-line pictures, one drawn picture over and over, with two channels of sound. */
async function bigFile(file: string, frames: number): Promise<void> {
  const [width, height] = [1920, 1080]
  const { head, step } = plainMov(width, height, frames, 900_000)
  const sink = await fileSink(file)
  await sink.write(0, head)
  const picture = encodeV210(
    drawFrame(
      {
        width,
        height,
        rate,
        dropFrame: false,
        start: 0,
        shots: [{ scene: 'gannets', frames: 10, name: '', reel: '' }],
      },
      3,
    ),
  )
  for (let n = 0; n < frames; n++) await sink.write(head.length + n * step, picture)
  await truncate(file, head.length + frames * step)
  await sink.finish()
}

/** Runs one recipe over a whole file; milliseconds from the first start to the last end of its steps, by their kind. */
async function runRecipe(file: string, kind: Recipe['kind'], workers: number): Promise<Map<string, number>> {
  const data = path.join(folder, `data-${kind}-${workers}`)
  const engine = await Session.open({ data, roots: [folder], workers: workers, analyse: false })
  const root = engine.roots.list[0]!.name
  const t = await engine.timelines.bringIn({ root, path: path.basename(file) })
  const regions = [{ id: 'r', name: 'whole', in: 0, out: t.model.length, metadata: {} }]
  await engine.timelines.saveSplit(t.id, { regions, markers: [] }, 1)
  const place = { pattern: `${kind}-${workers}`, root, folder: 'out' }
  await engine.outlets.save({ id: 'o', name: 'o', recipe: recipe(kind), spec: 'open', ...place })
  await engine.outlets.choose([{ timelineId: t.id, regionId: 'r', outletId: 'o' }], true)
  const run = await engine.nights.start('bench', workers)
  while ((await engine.progress.list())[0]!.state === 'running') await new Promise((r) => setTimeout(r, 20))
  const [item] = (await engine.progress.view(run)).items
  if (item!.state !== 'done') fail('bench.failed', item!.problem?.message ?? 'The file was not made.')
  const steps = await engine.db
    .selectFrom('step')
    .select((e) => ['kind', e.fn.min('started').as('began'), e.fn.max('finished').as('ended')])
    .where('run_id', '=', run)
    .groupBy('kind')
    .execute()
  await engine.close()
  await new Promise((r) => setTimeout(r, 300))
  await rm(path.join(folder, '.velvet-scratch'), { recursive: true, force: true })
  await rm(path.join(folder, 'out'), { recursive: true, force: true })
  return new Map(steps.map((s) => [s.kind, s.ended! - s.began!]))
}

async function copyBytes(from: string, to: string): Promise<number> {
  const began = performance.now()
  const [a, b] = [await open(from, 'r'), await open(to, 'w')]
  const block = Buffer.alloc(8 << 20)
  for (let n = (await a.read(block)).bytesRead; n > 0; n = (await a.read(block)).bytesRead) await b.write(block, 0, n)
  await b.sync()
  await a.close()
  await b.close()
  return performance.now() - began
}

async function rewrapping(file: string): Promise<void> {
  const copy = await copyBytes(file, path.join(folder, 'copy'))
  await rm(path.join(folder, 'copy'))
  const ours = (await runRecipe(file, 'rewrap', 1)).get('rewrap')!
  print(
    'rewrap of 1 GB against copying the same bytes',
    `${(ours / copy).toFixed(2)} × (${Math.round(ours)} ms, copy ${Math.round(copy)} ms)`,
  )
}

async function opening(): Promise<void> {
  const frames = Math.floor(20e9 / v210Size(1920, 1080))
  const { head, step } = plainMov(1920, 1080, frames, 0)
  const file = path.join(folder, 'sparse.mov')
  await writeFile(file, head)
  await truncate(file, head.length + frames * step)
  const source = await openFile(file)
  let bytes = 0
  const counted: ByteSource = {
    ...source,
    read: (o, n) => {
      bytes += n
      return source.read(o, n)
    },
  }
  const began = performance.now()
  await openMedia(counted)
  print(
    'opening a sparse file of 20 GB',
    `${(performance.now() - began).toFixed(1)} ms, ${bytes} bytes read of its index of ${head.length}`,
  )
  await source.close()
  await rm(file)
}

function measuring(): void {
  const second = [0, 1].map((c) =>
    Float32Array.from(
      { length: 48000 },
      (_, i) => 0.4 * Math.sin(i * (0.03 + c * 0.01)) + 0.3 * Math.sin(i * i * 1e-5),
    ),
  )
  const seconds = 300
  const times = (feed: (block: Float32Array[]) => void) => {
    for (let i = 0; i < 20; i++) feed(second)
    const cpu = process.cpuUsage()
    for (let i = 0; i < seconds; i++) feed(second)
    const used = process.cpuUsage(cpu)
    return Math.round(seconds / ((used.user + used.system) / 1e6))
  }
  const shape = { channels: 2, sampleRate: 48000, rate }
  const meter = soundMeter(shape, 'L R')
  print('loudness, true peak and faults, stereo, one core', `${times((b) => meter.feed(b))} × real time`)
  const tracer = new SoundTracer(shape, 0, true)
  print(
    'the same kept for every region, faults aside',
    `${times((b) => {
      tracer.feed(b)
      tracer.rows()
    })} × real time`,
  )
}

/** A drawn 1080-line picture to 720 lines, by the kernel and by its plain reference. */
function resizing(): void {
  const shots = [{ scene: 'bell' as const, frames: 1, name: 'bell', reel: 'BELL' }]
  const drawn = drawFrame({ width: 1920, height: 1080, rate, dropFrame: false, start: 0, shots }, 0)
  const picture = toChroma420(toDepth(drawn, 8))
  const each = (times: number, action: () => void) => {
    action()
    const began = performance.now()
    for (let i = 0; i < times; i++) action()
    return (performance.now() - began) / times
  }
  for (const scaler of scalers) {
    const fast = each(60, () => void fitPicture(picture, { width: 1280, height: 720, fit: 'letterbox', scaler }))
    const [src, dst] = [picture.planes[0], new Uint8Array(1280 * 720)]
    const part = (width: number, height: number) => ({ x: 0, y: 0, width, height })
    const luma = { src, stride: 1920, height: 1080, dst, dstStride: 1280, from: part(1920, 1080), to: part(1280, 720) }
    const plain = each(3, () => scalePlain({ ...luma, scaler }))
    const figures = `${fast.toFixed(1)} ms a frame (luma alone, plainly: ${plain.toFixed(0)} ms; goal ≤ 4)`
    print(`scaling 1080 to 720 lines, ${scaler}`, figures)
  }
}

/** Uncompressed pictures in and out: how near the disk they come. */
async function masters(file: string): Promise<void> {
  const frames = 190
  const one = await runRecipe(file, 'master', 1)
  const two = await runRecipe(file, 'master', 2)
  const copy = await copyBytes(file, path.join(folder, 'copy'))
  const read = await readBytes(path.join(folder, 'copy'))
  await rm(path.join(folder, 'copy'))
  const [made, proof] = [one.get('encode-in-place')!, one.get('prove')!]
  const faster = made / two.get('encode-in-place')!
  const rates = [made, two.get('encode-in-place')!].map((ms) => (frames / (ms / 1000)).toFixed(1)).join(' and ')
  print('uncompressed export, two workers against one', `${faster.toFixed(2)} × (${rates} frames a second; goal ≥ 1.9)`)
  print(
    'uncompressed master, proven, against copying',
    `${(copy / (made + proof)).toFixed(2)} × as fast (made ${Math.round(made)} ms, proven ${Math.round(proof)} ms, ` +
      `copied ${Math.round(copy)} ms; goal ≥ 0.5)`,
  )
  print(
    'proof of written v210 against reading its bytes',
    `${(proof / read).toFixed(1)} × (SHA-256 of them alone ${(await summing(file)).toFixed(0)} ms; goal ≤ 2)`,
  )
}

async function readBytes(file: string): Promise<number> {
  const handle = await open(file, 'r')
  const block = Buffer.alloc(8 << 20)
  const began = performance.now()
  while ((await handle.read(block)).bytesRead > 0);
  await handle.close()
  return performance.now() - began
}

/** Milliseconds that SHA-256 of a file takes: no proof can be faster. */
async function summing(file: string): Promise<number> {
  const handle = await open(file, 'r')
  const block = Buffer.alloc(8 << 20)
  const sha = createHash('sha256')
  const began = performance.now()
  for (let n = (await handle.read(block)).bytesRead; n > 0; n = (await handle.read(block)).bytesRead)
    sha.update(block.subarray(0, n))
  sha.digest()
  await handle.close()
  return performance.now() - began
}

async function all(): Promise<void> {
  const big = path.join(folder, 'big.mov')
  await bigFile(big, 190)
  await rewrapping(big)
  await opening()
  measuring()
  resizing()
  await stages(folder, print)
  await masters(big)
  await broadcast(print, folder)
  await sixteenTracks(path.join(folder, 'sixteen'), print)
  await elsewhere(path.join(folder, 'elsewhere'), print)
  await stills(print)
  reading(print)
  cutting(print)
  await passing(folder, print)
  await copying(path.join(folder, 'copying'), print)
  await taking(path.join(folder, 'taking'), print)
  await lengths(path.join(folder, 'lengths'), print)
  await forecasting(path.join(folder, 'demo'), print)
  await joining(path.join(folder, 'joining'), print)
  await wire()
  splitting(print)
  await desk(folder, print)
  await stepping(path.join(folder, 'stepping'), print)
}

try {
  const about = await readFile(path.join(process.env.VELVET_HOME ?? process.cwd(), 'package.json'), 'utf8')
  const { version } = JSON.parse(about) as { version: string }
  console.log(`Velvet Crane ${version}, Node ${process.version}`)
  const alone: Record<string, () => Promise<void>> = {
    desk: () => desk(folder, print),
    splitting: () => Promise.resolve(splitting(print)),
    server: wire,
    stepping: () => stepping(path.join(folder, 'stepping'), print),
    broadcast: () => broadcast(print, folder),
    sixteen: () => sixteenTracks(path.join(folder, 'sixteen'), print),
    elsewhere: () => elsewhere(path.join(folder, 'elsewhere'), print),
    stills: () => stills(print),
    copying: () => copying(path.join(folder, 'copying'), print),
    taking: () => taking(path.join(folder, 'taking'), print),
    masters: async () => {
      const big = path.join(folder, 'big.mov')
      await bigFile(big, 190)
      await masters(big)
      resizing()
      measuring()
    },
    passing: () => passing(folder, print),
    joining: () => joining(path.join(folder, 'joining'), print),
    forecast: () => forecasting(path.join(folder, 'demo'), print),
    stages: () => stages(folder, print),
    lengths: () => lengths(path.join(folder, 'lengths'), print),
    memory: () => memory(path.join(folder, 'memory'), print),
  }
  if (only) await (alone[only] ?? (() => fail('bench.unknown', `There is no part “${only}” of the bench.`, only)))()
  else await all()
} finally {
  await rm(folder, { recursive: true, force: true })
}
process.exit(0)
