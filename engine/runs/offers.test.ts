import { mkdirSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { freeze } from '../../core/deliverable/freeze'
import type { FrozenDeliverable } from '../../core/deliverable/sheet'
import { drain, outlet, recipe, scratchFolder, smallReel } from '../../tests/fixtures'
import { reads, writes } from '../queue/port'
import { Session } from '../session'
import { machineAbilities } from '../worker/codecs'
import { offersOf } from './offers'

const { folder, remove } = scratchFolder()
let engine: Session
let frozen: FrozenDeliverable

beforeAll(async () => {
  for (const name of ['storage', 'disk']) mkdirSync(path.join(folder, name))
  await smallReel(path.join(folder, 'storage', 'reel.mov'))
  const roots = ['storage', 'disk'].map((name) => ({ name, path: path.join(folder, name) }))
  engine = await Session.open({ data: path.join(folder, 'data'), roots, workers: 0 })
  await engine.outlets.save(outlet('copy', 'disk', recipe('viewing', { width: 320, height: 180 })))
  const t = await engine.timelines.bringIn({ root: 'storage', path: 'reel.mov' })
  const regions = [{ id: 'r', name: 'Fog Bell', in: 0, out: 40, metadata: {} }]
  await engine.timelines.saveSplit(t.id, { regions, markers: [] }, 1)
  await engine.outlets.choose([{ timelineId: t.id, regionId: 'r', outletId: 'copy' }], true)
  await drain(engine)
  frozen = freeze((await engine.nights.judged())[0]!, 'd')
})
afterAll(async () => {
  await engine.close()
  remove()
})

it('asks of whoever takes a step to see what the file is made from and where it is written', async () => {
  const offers = offersOf('run', 0, frozen, await machineAbilities())
  expect(offers.map((o) => o.key)).toContain('prove')
  for (const { places } of offers) expect([...places].sort()).toEqual([reads('storage'), writes('disk')])
  const earlier = { id: 'e', root: 'archive', path: 'e.mp4' }
  for (const { places } of offersOf('run', 0, { ...frozen, earlier }, await machineAbilities()))
    expect(places).toContain(reads('archive'))
})

it('asks for the codecs of the file, for its proof as well, as far as this machine has them', () => {
  const encodes = ['h264', 'aac']
  const abilitiesOf = (decodes: string[]) => offersOf('run', 0, frozen, { decodes, encodes }).at(-1)!.abilities
  expect(abilitiesOf(['h264', 'aac'])).toEqual(
    expect.arrayContaining(['decode:h264', 'decode:aac', 'encode:h264', 'encode:aac']),
  )
  // what cannot be decoded here either is proven without
  expect(abilitiesOf(['h264'])).not.toContain('decode:aac')
})

it('asks for nothing that nobody can: what fails says why, instead of waiting', () => {
  const of = (joined: string[]) =>
    offersOf('run', 0, frozen, { decodes: ['h264'], encodes: ['h264'] }, new Set(joined)).at(-1)!.abilities
  expect(of([])).not.toContain('encode:aac')
  expect(of([])).toContain('encode:h264')
  // another machine that takes part can
  expect(of(['encode:aac'])).toContain('encode:aac')
})
