import { randomUUID } from 'node:crypto'
import { writeFile } from 'node:fs/promises'
import path from 'node:path'
import type { DeliverableKey, Outlet } from '../core/deliverable/outlet'
import type { Recipe } from '../core/recipe/recipe'
import { shippedRecipes } from '../core/recipe/registry'
import type { KindOfRegion } from '../core/split/kinds'
import type { Region } from '../core/split/region'
import type { FrameRange } from '../core/time/range'
import type { Session } from '../engine/session'
import type { almanacReel, bulletinReel } from './almanac'
import { shotsOf, type Timeline } from '../core/timeline/model'
import { trailerLists } from './trailer'

/** Where the reels lie below the storage root. */
export const reelPath = 'The Ferry Almanac/Almanac_Reel_1.mov'
export const bulletinPath = 'Harbour Bulletins/Bulletins_Week_48.mp4'

const recipe = (kind: Recipe['kind'], changes: Partial<Recipe>): Recipe => ({
  ...shippedRecipes().find((r) => r.kind === kind)!,
  id: randomUUID(),
  ...changes,
})

function region(name: string, range: FrameRange, production?: string, kind?: KindOfRegion): Region {
  const number: Record<string, string> = production ? { 'production number': production } : {}
  const series: Record<string, string> =
    kind === 'programme' ? { 'series title': 'The Ferry Almanac', language: 'eng' } : {}
  return {
    ...{ id: randomUUID(), name, ...range, metadata: { ...number, ...series } },
    ...(kind ? { kind } : {}),
  }
}

/** Sets the demo's desk: timelines brought in and split, outlets, and work in progress. */
export async function setDesk(
  engine: Session,
  storage: string,
  almanac: ReturnType<typeof almanacReel>,
  harbour: ReturnType<typeof bulletinReel>,
): Promise<void> {
  const root = engine.roots.list[0]!.name
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
    const t = await engine.timelines.bringIn(
      { root, path: list },
      { show: 'The Ferry Almanac', rate: almanac.plan.rate },
    )
    // the first one is split; the second is how it was cut again
    if (name.endsWith('v1')) await engine.timelines.saveSplit(t.id, { ...t.split, regions: trailerRegions(t.model) }, 1)
  }
  const films = filmsOf(almanac.ranges)
  const bulletins = [...harbour.ranges].filter(([name]) => name !== 'Ident').map(([name, r]) => region(name, r))
  const save = (id: string, regions: Region[]) =>
    engine.timelines.saveSplit(
      id,
      { regions, markers: [{ id: randomUUID(), at: regions[1]!.in + 60, name: 'Chain, close' }] },
      1,
    )
  await save(reel.id, films)
  await save(news.id, bulletins)
  for (const o of outletsAt(root)) await engine.outlets.save(o)
  const keys = (timelineId: string, list: readonly Region[], outletId: string): DeliverableKey[] =>
    list.map((r) => ({ timelineId, regionId: r.id, outletId }))
  const six = films.slice(1, 7)
  await engine.outlets.choose(keys(reel.id, six, 'northmere'), true)
  await engine.outlets.choose(keys(reel.id, films.slice(1, 8), 'lantern'), true)
  await engine.outlets.choose(keys(reel.id, [...six, films[8]!], 'archive'), true)
  await engine.outlets.choose(keys(reel.id, [films[8]!], 'archive-stills'), true)
  await engine.outlets.choose(keys(news.id, bulletins, 'osprey'), true)
  await engine.outlets.choose(keys(news.id, bulletins, 'lantern'), true)
  // work in progress: the first two masters already have their channels and start set
  await engine.outlets.override(keys(reel.id, films.slice(1, 3), 'northmere'), { start: '10:00:00:00' })
  await engine.outlets.override(keys(reel.id, [films[4]!], 'lantern'), { channels: [1, 1], burnName: true })
}

/** What the trailer was split into: its shots, those of the first three films as one. */
function trailerRegions(t: Timeline): Region[] {
  const shots = shotsOf(t)
  const films = { in: shots[0]!.in, out: shots[2]!.out }
  return [region('Three films', films), ...shots.slice(3).map((s) => region(s.name, { in: s.in, out: s.out }))]
}

/** The regions of the reel, with the faults of a split that is not finished. */
function filmsOf(ranges: ReadonlyMap<string, FrameRange>): Region[] {
  const at = (name: string) => ranges.get(name)!
  return [
    region('Line-up and slate', { in: 0, out: at('Slate').out }, undefined, 'line-up'),
    region('Morning Chain', { in: at('Morning Chain').in, out: at('Morning Chain').out + 2 }, 'FA-101', 'programme'),
    region('The Gannet Run', at('The Gannet Run'), 'FA-102', 'programme'),
    region('Fog Bell', { in: at('Fog Bell').in, out: at('Fog Bell').out - 12 }, 'FA-103', 'programme'),
    region('Two Cars and a Cow', at('Two Cars and a Cow'), 'FA-104', 'programme'),
    region('Low Water', at('Low Water'), undefined, 'programme'),
    region('Last Boat Home', at('Last Boat Home'), 'FA-106', 'programme'),
    region('Last Boat Home', at('Promo'), 'FA-190', 'promo'),
    region('Textless elements', at('Textless'), 'FA-191', 'textless'),
  ]
}

const outletsAt = (root: string): Outlet[] => [
  {
    id: 'northmere',
    name: 'Northmere',
    recipe: recipe('broadcast', { name: 'Northmere master', lineUp: -18 }),
    spec: 'northmere',
    pattern: '{production}_{region}_{version}',
    root,
    folder: 'Deliveries/Northmere',
    kinds: ['programme'],
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
    checksums: ['md5', 'sha256'],
    kinds: ['programme', 'promo', 'textless'],
    root,
    folder: 'Deliveries/Archive',
  },
  {
    id: 'archive-stills',
    name: 'Archive stills',
    recipe: recipe('sequence', { name: 'Archive DPX' }),
    spec: 'open',
    pattern: '{number}_{region}',
    checksums: ['md5', 'sha256'],
    kinds: ['textless'],
    root,
    folder: 'Deliveries/Archive/Stills',
  },
]
