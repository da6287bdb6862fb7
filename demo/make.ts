import { fork } from 'node:child_process'
import { randomUUID } from 'node:crypto'
import { existsSync } from 'node:fs'
import { mkdir, readdir, rename, rm, writeFile } from 'node:fs/promises'
import path from 'node:path'
import type { DeliverableKey, Outlet } from '../core/deliverable/outlet'
import type { Recipe } from '../core/recipe/recipe'
import { shippedRecipes } from '../core/recipe/registry'
import type { Region, Split } from '../core/split/region'
import type { FrameRange } from '../core/time/range'
import { machineCodecs } from '../engine/worker/codecs'
import { Session } from '../engine/session'
import { almanacReel, bulletinReel } from './almanac'
import { trailerLists } from './trailer'
import { makeReel, reelEdl, type ReelPlan } from './reel'

/** Raised when the demo's data should be made anew. */
const edition = '5'

const recipe = (kind: Recipe['kind'], changes: Partial<Recipe>): Recipe => ({
  ...shippedRecipes().find((r) => r.kind === kind)!,
  id: randomUUID(),
  ...changes,
})

/** Makes the media, once: written under another name and renamed, so that an interrupted start begins again. */
async function makeMedia(file: string, plan: ReelPlan, title: string, say: (text: string) => void): Promise<void> {
  if (existsSync(file)) return
  await mkdir(path.dirname(file), { recursive: true })
  const total = plan.shots.reduce((n, s) => n + s.frames, 0)
  await makeReel(`${file}.part`, plan, machineCodecs(), (n) => {
    if (n % 100 === 0) say(`  drawing ${title}: frame ${n} of ${total}`)
  })
  await writeFile(file.replace(/\.[^.]+$/, '.edl'), reelEdl(plan, title.toUpperCase()))
  await rename(`${file}.part`, file)
}

function region(name: string, range: FrameRange, production?: string): Region {
  return { id: randomUUID(), name, ...range, metadata: production ? { 'production number': production } : {} }
}

/** The demo world of the Ferry Almanac: reels with planted faults, outlets, and a desk with work in progress. */
async function makeDemo(folder: string, only: string | undefined): Promise<void> {
  const marker = path.join(folder, `edition-${edition}`)
  if (existsSync(marker)) return
  // a demo of another edition is made anew: what was made by the demo goes, what was delivered or dropped stays
  const old = !only && existsSync(folder) ? (await readdir(folder)).filter((n) => n.startsWith('edition-')) : []
  if (old.length) {
    console.log(
      '  the demo is of an older edition: its reels and its desk are made anew; deliveries and dropped files stay',
    )
    for (const n of ['data', 'storage/The Ferry Almanac', 'storage/Harbour Bulletins', ...old])
      await rm(path.join(folder, n), { recursive: true, force: true })
  }
  if (!machineCodecs()) {
    console.error(
      'The demo draws and encodes its own reels, for which this machine lacks the codec package ' +
        '(@napi-rs/webcodecs). Run npm install with optional packages and start again.',
    )
    process.exit(1)
  }
  const say = (text: string) => console.log(text)
  const storage = path.join(folder, 'storage')
  const almanac = almanacReel()
  const harbour = bulletinReel()
  const reelPath = 'The Ferry Almanac/Almanac_Reel_1.mov'
  const bulletinPath = 'Harbour Bulletins/Bulletins_Week_48.mp4'
  if (only === 'bulletins') return makeMedia(path.join(storage, bulletinPath), harbour.plan, 'Harbour bulletins', say)
  // the second reel is drawn by a process of its own, at the same time
  const other = fork(process.argv[1]!, [folder, 'bulletins'])
  const otherDone = new Promise<void>((resolve, reject) =>
    other.on('exit', (code) => (code === 0 ? resolve() : reject(new Error('The second reel could not be made.')))),
  )
  await makeMedia(path.join(storage, reelPath), almanac.plan, 'Almanac reel one', say)
  await otherDone

  const engine = await Session.open({ data: path.join(folder, 'data'), roots: [storage], workers: 0 })
  const root = engine.roots.list[0]!.name
  if ((await engine.timelines.list()).length === 0) {
    const reel = await engine.timelines.bringIn(
      { root, path: reelPath },
      { cuts: { root, path: reelPath.replace('.mov', '.edl') }, show: 'The Ferry Almanac', name: 'Almanac Reel 1' },
    )
    const news = await engine.timelines.bringIn(
      { root, path: bulletinPath },
      {
        cuts: { root, path: bulletinPath.replace('.mp4', '.edl') },
        show: 'Harbour Bulletins',
        name: 'Bulletins Week 48',
      },
    )
    // a trailer cut from both reels and one card that nobody has any more, in two versions
    for (const [name, text] of trailerLists(almanac)) {
      const list = `The Ferry Almanac/${name}.edl`
      await writeFile(path.join(storage, list), text)
      await engine.timelines.bringIn({ root, path: list }, { show: 'The Ferry Almanac', rate: almanac.plan.rate })
    }
    const at = (name: string) => almanac.ranges.get(name)!
    const films: Region[] = [
      region('Line-up and slate', { in: 0, out: at('Slate').out }),
      region('Morning Chain', { in: at('Morning Chain').in, out: at('Morning Chain').out + 2 }, 'FA-101'),
      region('The Gannet Run', at('The Gannet Run'), 'FA-102'),
      region('Fog Bell', { in: at('Fog Bell').in, out: at('Fog Bell').out - 12 }, 'FA-103'),
      region('Two Cars and a Cow', at('Two Cars and a Cow'), 'FA-104'),
      region('Low Water', at('Low Water')),
      region('Last Boat Home', at('Last Boat Home'), 'FA-106'),
      region('Last Boat Home', at('Promo'), 'FA-190'),
      region('Textless elements', at('Textless'), 'FA-191'),
    ]
    const bulletins = [...harbour.ranges].filter(([name]) => name !== 'Ident').map(([name, r]) => region(name, r))
    const save = (id: string, regions: Region[]) =>
      engine.timelines.saveSplit(
        id,
        { regions, markers: [{ id: randomUUID(), at: regions[1]!.in + 60, name: 'Chain, close' }] } satisfies Split,
        1,
      )
    await save(reel.id, films)
    await save(news.id, bulletins)
    const outlets: Outlet[] = [
      {
        id: 'northmere',
        name: 'Northmere',
        recipe: recipe('master', { name: 'Northmere master' }),
        spec: 'northmere',
        pattern: '{production}_{region}_{version}',
        root,
        folder: 'Deliveries/Northmere',
      },
      {
        id: 'osprey',
        name: 'Osprey',
        recipe: recipe('rewrap', { name: 'Osprey rewrap' }),
        spec: 'osprey',
        pattern: '{show:7}_{number}_{region}_{version}',
        root,
        folder: 'Deliveries/Osprey',
      },
      {
        id: 'lantern',
        name: 'Lantern',
        recipe: recipe('viewing', { name: 'Lantern viewing copy' }),
        spec: 'lantern',
        pattern: '{show}/{region}',
        root,
        folder: 'Deliveries/Lantern',
      },
      {
        id: 'archive',
        name: 'Isles Archive',
        recipe: recipe('sound', { name: 'Archive sound' }),
        spec: 'open',
        pattern: '{show}/{number}_{region}_{channels}',
        root,
        folder: 'Deliveries/Archive',
      },
    ]
    for (const o of outlets) await engine.outlets.save(o)
    const cells = (timelineId: string, list: readonly Region[], outletId: string): DeliverableKey[] =>
      list.map((r) => ({ timelineId, regionId: r.id, outletId }))
    const six = films.slice(1, 7)
    await engine.outlets.choose(cells(reel.id, six, 'northmere'), true)
    await engine.outlets.choose(cells(reel.id, films.slice(1, 8), 'lantern'), true)
    await engine.outlets.choose(cells(reel.id, [...six, films[8]!], 'archive'), true)
    await engine.outlets.choose(cells(news.id, bulletins, 'osprey'), true)
    await engine.outlets.choose(cells(news.id, bulletins, 'lantern'), true)
    // work in progress: the first two masters already have their channels and start set
    await engine.outlets.override(cells(reel.id, films.slice(1, 3), 'northmere'), { start: '10:00:00:00' })
    await engine.outlets.override(cells(reel.id, [films[4]!], 'lantern'), { channels: [1, 1], burnName: true })
  }
  await engine.close()
  await writeFile(marker, '')
}

await makeDemo(path.resolve(process.argv[2] ?? path.join('.velvet', 'demo')), process.argv[3])
process.exit(0)
