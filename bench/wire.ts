import type { RegionSound } from '../core/analysis/soundstretches'
import { fork } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import type { LiveEvent } from '../contract/live'
import { diffSplit } from '../core/split/patch'
import { shippedRecipes } from '../core/recipe/registry'
import { keyText } from '../core/deliverable/outlet'
import type { Split } from '../core/split/region'
import { machineCodecs } from '../engine/worker/codecs'
import { makeReel } from '../demo/reel'
import { makeRate } from '../core/time/rate'
import { Session } from '../engine/session'
import { factKeys, writeFact } from '../engine/store/facts'

const regions = 2000
const outlets = ['north', 'lantern', 'archive']
const kilobytes = (n: number) => `${(n / 1000).toFixed(1)} kB`
const milliseconds = (n: number) => `${n.toFixed(1)} ms`

type Print = (name: string, figures: string) => void

/** What an edit and a running night cost a server, with two thousand regions for three outlets. */
export async function wire(): Promise<void> {
  const folder = mkdtempSync(path.join(tmpdir(), 'velvet-wire-'))
  await prepare(folder)
  // a process of its own, started as ./velvet starts the server: its memory is the server's
  const child = fork(process.argv[1]!, ['wire', folder], { execArgv: ['--heap-growing-percent=30'] })
  await new Promise((resolve) => child.on('exit', resolve))
  rmSync(folder, { recursive: true, force: true })
}

const open = (folder: string) =>
  Session.open({ data: path.join(folder, 'data'), roots: [folder], workers: 0, analyse: false })
const regionAt = (i: number) => ({ id: `r${i}`, name: `Part ${i + 1}`, in: i * 2, out: i * 2 + 2, metadata: {} })
const split: Split = { regions: Array.from({ length: regions }, (_, i) => regionAt(i)), markers: [] }

/** A timeline of many regions, all of them measured, all going to every outlet. */
async function prepare(folder: string): Promise<void> {
  const rate = makeRate(25)
  const shots = [{ scene: 'bell' as const, frames: regions * 2, name: 'bell', reel: 'BELL', clean: true }]
  const silence = new Float32Array(regions * 2 * 1920)
  const plan = { width: 64, height: 36, rate, dropFrame: false, start: 0, shots, bitrate: 100_000 }
  await makeReel(
    path.join(folder, 'reel.mov'),
    { ...plan, pictures: 'v210', sound: 'pcm', container: 'mov', channels: [silence, silence] },
    machineCodecs(),
  )
  const session = await open(folder)
  const root = session.roots.list[0]!.name
  const t = await session.timelines.bringIn({ root, path: 'reel.mov' })
  await session.timelines.saveSplit(t.id, split, 1)
  const recipes = shippedRecipes()
  for (const [i, id] of outlets.entries()) {
    const recipe = recipes[i + 1]!
    await session.outlets.save({ id, name: id, recipe, spec: 'open', pattern: '{number}_{region}', root, folder: id })
    await session.outlets.choose(
      split.regions.map((r) => ({ timelineId: t.id, regionId: r.id, outletId: id })),
      true,
    )
  }
  const quiet = { integrated: -23, range: 4, truePeak: -6, momentaryMax: -20, shortTermMax: -21 }
  const faults = { silence: [], clicks: [], dropouts: [], data: [], phase: [] }
  const pairs = [{ channels: [0, 1], correlation: 0.9, alike: false }] as const
  const mixes = { pairs, others: [], untold: [] }
  const sound: RegionSound = { ...quiet, ...mixes, peaks: [-6, -6], faults, sourcePeaks: [-6, -6], head: null }
  const pictures = { black: [], freeze: [], flashes: [] }
  for (const d of await session.nights.judged()) {
    const { region, route } = d.draft
    await writeFact(session.db, factKeys.regionSound(t.fingerprint, [region], { route }), sound)
    await writeFact(session.db, factKeys.regionPictures(t.fingerprint, [region]), pictures)
  }
  await session.db.deleteFrom('step').execute()
  await session.close()
}

/** The measuring side, in a process of its own. */
export async function measureWire(folder: string, print: Print): Promise<void> {
  const session = await open(folder)
  const [t] = await session.timelines.list()
  const first = performance.now()
  const { list } = await session.live.list()
  const whole = performance.now() - first
  const size = kilobytes(JSON.stringify(list).length)
  print(`${list.length} deliverables judged, the first time`, `${milliseconds(whole)}; as summaries ${size}`)

  const told: LiveEvent[] = []
  const leave = session.live.subscribe((e) => void told.push(e))
  await new Promise((r) => setTimeout(r, 400))
  told.length = 0
  const edits: number[] = []
  let before = split
  let patch = diffSplit(split, split)
  for (let n = 1; n <= 9; n++) {
    const regions = split.regions.map((r, i) => (i === 700 ? { ...r, name: `Fog Bell ${n}` } : r))
    patch = diffSplit(before, { ...split, regions })
    before = { ...split, regions }
    await session.timelines.patchSplit(t!.id, patch, n + 1)
    const began = performance.now()
    await session.live.refresh()
    edits.push(performance.now() - began)
    if (n === 1) await new Promise((r) => setTimeout(r, 600))
    if (n === 1) leave()
  }
  edits.sort((x, y) => x - y)
  const bytes = JSON.stringify({ patch, version: 2 }).length + told.reduce((n, e) => n + JSON.stringify(e).length, 0)
  const [usual, longest] = [edits[4]!, edits[8]!]
  print('an edit of one region, on the wire', `${kilobytes(bytes)} there and back (goal < 50 kB)`)
  const against = `${(usual / whole).toFixed(3)} × (${milliseconds(usual)}, ${milliseconds(longest)} at worst of 9)`
  print('an edit of one region against judging all', against)

  const night = list.slice(0, 3000)
  const run = await session.nights.start('night', 2, night.map(keyText))
  const turns: number[] = []
  for (let i = 0; i < 30; i++) {
    const at = performance.now()
    await session.progress.pulse(run, new Date().toISOString())
    turns.push(performance.now() - at)
  }
  turns.sort((a, b) => a - b)
  const [middle, worst] = [turns[15]!, turns[29]!].map(milliseconds)
  print(`how a night of ${night.length} goes, asked`, `${middle} in the middle, ${worst} at worst (goal < 5 ms)`)
  print('memory of the server with all of it', `${Math.round(process.memoryUsage().rss / 1e6)} MB (goal < 300 MB)`)
  await session.close()
}
