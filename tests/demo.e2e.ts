import { execFileSync } from 'node:child_process'
import path from 'node:path'
import { beforeAll, expect, it } from 'vitest'
import type { Deliverable, DeliverableSummary } from '../contract/deliverables'
import { keyText } from '../core/deliverable/outlet'
import type { SplitTimeline } from '../core/split/timeline'
import { audit } from '../core/split/audit/audit'
import { cutsOf, shotsOf } from '../core/timeline/model'
import { application, ask } from './browser'

// The demo's planted faults show up where they should.

const project = path.resolve(import.meta.dirname, '..')
let list: DeliverableSummary[]
let details: Deliverable[]
let timelines: SplitTimeline[]

const { folder } = application(() => {
  execFileSync(process.execPath, [path.join(project, 'dist', 'demo.mjs'), folder], {
    cwd: project,
    env: { ...process.env, VELVET_HOME: project },
    stdio: 'ignore',
  })
})
beforeAll(async () => {
  for (let i = 0; i < 1200; i++) {
    const { list: all } = await ask<{ list: DeliverableSummary[] }>('deliverables')
    list = all
    if (!all.some((d) => d.pending)) break
    await new Promise((r) => setTimeout(r, 500))
  }
  details = await Promise.all(list.map((d) => ask<Deliverable>(`deliverables/${keyText(d)}`)))
  timelines = await ask<SplitTimeline[]>('timelines')
})

it('keeps each film’s faults, and no others, out of its master', () => {
  const fails = (region: string) => {
    const reel = timelines.find((t) => t.name === 'Almanac Reel 1')!
    const id = reel.split.regions.find((r) => r.name === region)!.id
    return details
      .find((d) => d.regionId === id && d.outletId === 'northmere')!
      .results.filter((r) => r.verdict === 'fail')
      .map((r) => r.rule.measure)
  }
  expect(fails('Morning Chain')).toEqual([])
  expect(fails('The Gannet Run')).toEqual(['loudness'])
  expect(fails('Fog Bell')).toEqual(['start-timecode', 'programme-start', 'black'])
  expect(fails('Two Cars and a Cow')).toEqual(['start-timecode', 'programme-start', 'silent-channel'])
  expect(fails('Low Water')).toEqual(['start-timecode', 'programme-start', 'true-peak', 'metadata'])
  expect(fails('Last Boat Home')).toEqual(['start-timecode', 'programme-start', 'phase', 'flashes'])
})

it('finds the freeze, and two files that would get one name', () => {
  const cars = details.find((d) => d.title === 'Two Cars and a Cow → Northmere')!
  expect(cars.results.find((r) => r.rule.measure === 'freeze')).toMatchObject({
    verdict: 'caution',
    source: { text: '34 frames at 10:00:16:05' },
  })
  expect(
    details
      .filter(
        (d) =>
          d.outletId === 'lantern' && d.results.some((r) => r.rule.measure === 'file-name' && r.verdict === 'fail'),
      )
      .map((d) => d.title),
  ).toEqual(['Last Boat Home → Lantern', 'Last Boat Home → Lantern'])
})

it('audits the split: a sliver of two frames, twelve frames nobody delivers, a double name', () => {
  const reel = timelines.find((t) => t.name === 'Almanac Reel 1')!
  expect(audit(reel.split, cutsOf(shotsOf(reel.model)), reel.model.length).map((f) => f.text)).toEqual([
    '“Morning Chain” and “The Gannet Run” share 2 frames',
    '“Morning Chain” catches 2 frames of the next shot',
    '2 regions are called “Last Boat Home”',
    '12 frames nobody delivers',
  ])
})

it('clears the bulletins at 29.97 drop-frame for Osprey', () => {
  expect(details.filter((d) => d.outletId === 'osprey').map((d) => [d.output.start.label, d.cleared])).toEqual([
    ['01:00:51;10', true],
    ['01:00:55;10', true],
    ['01:00:59;10', true],
  ])
})
