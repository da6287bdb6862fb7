import { mkdirSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { keyText } from '../../core/deliverable/outlet'
import type { Recipe } from '../../core/recipe/recipe'
import {
  deliver,
  deliverables,
  drain,
  latestRun,
  outlet,
  recipe,
  scratchFolder,
  smallReel,
  testEngine,
} from '../../tests/fixtures'
import { openSpec } from '../../core/spec/shipped'
import { makeScenes } from '../../tests/scenes'
import { makeUnread } from '../../tests/unread'
import type { Session } from '../session'
import { sourceOf } from '../timelines/timelines'
import { machineCodecs } from '../worker/codecs'
import { openSource } from '../worker/sources/source'
import { measureFile } from '../worker/measurefile'

// Sound that cannot be decoded here keeps back what is made of it, and nothing else.

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
let engine: Session

const cut = `TITLE: show
FCM: NON-DROP FRAME
001  REEL     AA/V  C        10:00:59:05 10:01:00:20 01:00:00:00 01:00:01:15
* FROM CLIP NAME: heard.mov
002  OTHER    AA/V  C        10:00:59:05 10:01:00:20 01:00:01:15 01:00:03:05
* FROM CLIP NAME: unheard.mov
`

/** The same pictures throughout, with the sound of the other one. */
const crossed = `TITLE: crossed
FCM: NON-DROP FRAME
001  REEL     AA     C        10:00:59:05 10:01:00:20 01:00:00:00 01:00:01:15
* FROM CLIP NAME: heard.mov
002  OTHER    V      C        10:00:59:05 10:01:00:20 01:00:00:00 01:00:01:15
* FROM CLIP NAME: unheard.mov
`

/** The first two channels of a file that has more. */
const half = `TITLE: half
FCM: NON-DROP FRAME
001  HALF     AA/V  C        01:00:00:05 01:00:02:20 01:00:00:00 01:00:02:15
* FROM CLIP NAME: half.mov
`

beforeAll(async () => {
  mkdirSync(storage, { recursive: true })
  await smallReel(path.join(storage, 'heard.mov'))
  await smallReel(path.join(storage, 'unheard.mov'))
  makeUnread(path.join(storage, 'unheard.mov'))
  await makeScenes(path.join(storage, 'half.mov'), [[1, 0, 75]], ['L R', 'L R'])
  makeUnread(path.join(storage, 'half.mov'))
  for (const name of ['show.edl', 'first.edl']) writeFileSync(path.join(storage, name), cut)
  writeFileSync(path.join(storage, 'crossed.edl'), crossed)
  writeFileSync(path.join(storage, 'half.edl'), half)
  engine = await testEngine(folder)
})
afterAll(async () => {
  await engine.close()
  remove()
})

/** What is said of a file that would be made of the region of a timeline, once all is measured. */
async function foreseen(file: string, by: Recipe): Promise<readonly string[]> {
  const t = (await engine.timelines.list()).find((x) => x.file.path === file)!
  const key = { timelineId: t.id, regionId: 'r', outletId: `${by.kind}-with-sound` }
  await engine.outlets.save(outlet(key.outletId, 'storage', by))
  await engine.outlets.choose([key], true)
  await drain(engine)
  const own = (await deliverables(engine)).find((d) => keyText(d) === keyText(key))!
  return own.results.filter((r) => r.blocks).map((r) => r.why)
}

it('of a list keeps back what takes from it alone', async () => {
  // the first of its two shots can be heard
  const made = await deliver(engine, {
    name: 'one-shot',
    file: 'first.edl',
    range: { in: 4, out: 36 },
    by: recipe('sound'),
  })
  expect([made.state, made.verdict, made.problem]).toEqual(['done', 'pass', null])
  const { loudness } = await measureFile(path.join(storage, made.path))
  expect(loudness!.value).toBeGreaterThan(-40)
})

it('keeps back nothing that takes only its pictures', async () => {
  const range = { in: 4, out: 36 }
  const made = await deliver(engine, { name: 'crossed', file: 'crossed.edl', range, by: recipe('viewing') })
  expect([made.state, made.verdict, made.problem]).toEqual(['done', 'pass', null])
  const { loudness } = await measureFile(path.join(storage, made.path))
  expect(loudness!.value).toBeGreaterThan(-40)
})

it.each(['unheard.mov', 'show.edl'])(
  'of %s pictures are measured and made, and sound is refused before',
  async (file) => {
    const by = recipe('viewing', { channels: 'none' })
    const made = await deliver(engine, { name: `mute-${file}`, file, range: { in: 10, out: 60 }, by })
    expect([made.state, made.verdict, made.problem]).toEqual(['done', 'pass', null])
    for (const kind of ['viewing', 'sound', 'master'])
      expect((await foreseen(file, recipe(kind))).join()).toContain('Sound of kind “ac-3” cannot be decoded here')
  },
)

/** Rules about sound, of which none asks for much. */
const rules = [
  { id: 'loud', measure: 'loudness', severity: 'should', expect: { min: -60 }, clause: '1' },
  { id: 'head', measure: 'line-up-length', severity: 'should', expect: { max: 60 }, clause: '3' },
  { id: 'peak', measure: 'true-peak', severity: 'should', expect: { max: 0 }, clause: '2' },
] as const

/** A deliverable of a file before it is made: what its rules say, and what is noted of it. */
async function judged(path: string, name: string) {
  const own = (await deliverables(engine)).find((d) => d.outletId === name)!
  const results = rules.map((r) => own.results.find((x) => x.rule.id === r.id)!)
  const verdicts = results.map((r) => r.verdict)
  const driven = own.results.find((r) => r.rule.measure === 'full-scale')!.verdict
  return { verdicts, driven, why: results[0]!.why, notes: (own.output.notes ?? []).join(), cleared: own.cleared }
}

it('of a file is copied, and not measured: no rule about it is passed', async () => {
  await engine.outlets.saveSpec({ ...openSpec, id: 'heard', name: 'Heard', rules: [...rules] })
  const by = recipe('rewrap')
  const copied = { name: 'copied', file: 'unheard.mov', range: { in: 10, out: 60 }, by }
  const made = await deliver(engine, copied)
  expect([made.state, made.verdict, made.problem]).toEqual(['done', 'pass', null])
  await engine.outlets.save(outlet('copied', 'storage', by, { spec: 'heard' }))
  await drain(engine)
  const { verdicts, driven, why, notes, cleared } = await judged('unheard.mov', 'copied')
  expect(verdicts).toEqual(['unmeasured', 'unmeasured', 'unmeasured'])
  expect([cleared, driven]).toEqual([true, 'pass'])
  expect(why).toBe(
    'Integrated loudness: cannot be measured, its sound is not read (Sound of kind “ac-3” cannot be decoded here).',
  )
  expect(notes).toContain('Its sound is copied, and not measured: Sound of kind “ac-3” cannot be decoded here.')
  const again = await deliver(engine, { ...copied, name: 'copied-again', spec: 'heard' })
  const { proof } = (await engine.handover.one(again.id))!
  expect(rules.map((r) => proof.results.find((x) => x.rule.id === r.id)!.verdict)).toEqual(verdicts)
  expect([proof.sound, proof.info.audio.map((t) => t.codec)]).toEqual([null, ['ac-3']])
  expect(await measureFile(path.join(storage, again.path))).not.toHaveProperty('line-up-length')
})

it('on one of two tracks leaves the other to be heard, measured and delivered', async () => {
  const by = recipe('viewing', { channels: [1, 2] })
  const made = await deliver(engine, { name: 'half', file: 'half.mov', range: { in: 10, out: 60 }, by, spec: 'heard' })
  expect([made.state, made.verdict, made.problem]).toEqual(['done', 'pass', null])
  const { loudness } = await measureFile(path.join(storage, made.path))
  expect(loudness!.value).toBeGreaterThan(-30)
  const t = (await engine.timelines.list()).find((x) => x.file.path === 'half.mov')!
  const { sound } = await engine.viewing.analysis(t)
  // what is copied of it is looked through for line-up by the channels that are heard, here and by others
  const copy = {
    name: 'half-copied',
    file: 'half.mov',
    range: { in: 10, out: 60 },
    by: recipe('rewrap'),
    spec: 'heard',
  }
  const copied = await deliver(engine, copy)
  const { proof } = (await engine.handover.one(copied.id))!
  const written = proof.results.find((x) => x.rule.measure === 'line-up-length')!.written
  const elsewhere = await measureFile(path.join(storage, copied.path))
  expect([written?.text, elsewhere['line-up-length']?.text, elsewhere.loudness]).toEqual([
    'there is none',
    'there is none',
    undefined,
  ])
  expect(sound!.facts.integrated).toBeGreaterThan(-30)
  for (const channels of ['all' as const, [1, 4]])
    expect((await foreseen('half.mov', recipe('sound', { channels }))).join()).toContain('“ac-3” cannot be decoded')
  expect((await foreseen('half.mov', recipe('master', { channels: [1, 2, 0] }))).join()).not.toContain('ac-3')
  // what is heard where nothing is named is what can be
  const wave = await engine.viewing.listen(t, 0, 25)
  expect(wave.readUInt16LE(wave.indexOf('fmt ') + 10)).toBe(2)
  await expect(engine.viewing.listen(t, 0, 25, [3])).rejects.toThrow('cannot be decoded here')
})

it('is known of each stretch of a list', async () => {
  const t = (await engine.timelines.list()).find((x) => x.file.path === 'show.edl')!
  const source = await openSource(engine.roots, machineCodecs(), sourceOf(t))
  const ranges = [
    { in: 0, out: 36 },
    { in: 30, out: 50 },
    { in: 45, out: 80 },
  ]
  expect(ranges.map((r) => source.canHear(r))).toEqual([true, false, false])
  await source.close()
})

it('on tracks that a list does not take is none of its', async () => {
  const made = await deliver(engine, { name: 'list', file: 'half.edl', range: { in: 5, out: 60 }, by: recipe('sound') })
  expect([made.state, made.verdict, made.problem]).toEqual(['done', 'pass', null])
  const { loudness } = await measureFile(path.join(storage, made.path))
  expect(loudness!.value).toBeGreaterThan(-30)
})

it('that somebody accepts all the same fails in the night, which ends', async () => {
  const by = recipe('sound')
  await engine.outlets.save(outlet('accepted', 'storage', by))
  const t = (await engine.timelines.list()).find((x) => x.file.path === 'unheard.mov')!
  const key = { timelineId: t.id, regionId: 'r', outletId: 'accepted' }
  await engine.outlets.choose([key], true)
  await engine.nights.waive([key], { rule: 'house-possible', reason: 'try', initials: 'tk', at: '2026-11-30T04:00' })
  await drain(engine)
  await engine.nights.start('accepted', 2, [keyText(key)])
  await drain(engine)
  const [item] = (await latestRun(engine)).items
  expect([item!.state, item!.problem!.message]).toEqual(['failed', 'Sound of kind “ac-3” cannot be decoded here.'])
})
