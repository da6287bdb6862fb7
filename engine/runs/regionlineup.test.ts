import { mkdirSync } from 'node:fs'
import path from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { sampleAtFrame } from '../../core/time/samples'
import { makeRate, type Frames } from '../../core/time/rate'
import { keyText } from '../../core/deliverable/outlet'
import { parseSpec } from '../../core/spec/spec'
import { parseTimecode } from '../../core/time/timecode'
import {
  deliverables,
  drain,
  latestRun,
  outlet,
  recipe,
  scratchFolder,
  smallReel,
  testEngine,
} from '../../tests/fixtures'
import { Session } from '../session'
import { openMediaFile } from '../storage/mediafile'
import { measureFile } from '../worker/measurefile'

// A region that begins with line-up of its own: what a recipient asks of a programme is asked of what follows it,
// before the night, of the file as written, and of the same file by one who knows nothing of it.

const { folder, remove } = scratchFolder()
afterAll(remove)
const storage = path.join(folder, 'storage')
const rate = makeRate(25)
const programme = 150
const measures = ['line-up', 'tone-level', 'programme-start', 'programme-duration', 'loudness', 'true-peak', 'black']

/** Three seconds of tone at −18 dBFS with bars, two of a silent slate, one of black, then four of programme. */
async function reel(): Promise<void> {
  const at = (n: Frames) => sampleAtFrame(n, rate, 48000)
  const sound = (phase: number) =>
    Float32Array.from({ length: at(250) }, (_, i) => {
      if (i < at(75)) return 10 ** (-18 / 20) * Math.sin((2 * Math.PI * 1000 * i) / 48000)
      if (i < at(programme)) return 0
      return 0.02 * Math.sin(phase + 2 * Math.PI * (i / 48000) * (300 + i / 400)) * (i % 30_000 < 15_000 ? 1 : 3)
    })
  const shot = (scene: 'bars' | 'slate' | 'black' | 'bell', frames: Frames) => ({
    ...{ scene, frames, name: scene, reel: scene.toUpperCase(), clean: true },
  })
  await smallReel(path.join(storage, 'reel.mov'), {
    ...{ width: 320, height: 180, bitrate: 3_000_000, channels: [sound(0), sound(0.4)] },
    start: parseTimecode('09:59:54:00', { rate, dropFrame: false })!,
    shots: [shot('bars', 75), shot('slate', 50), shot('black', 25), shot('bell', 100)],
  })
}

async function begun(analyse: boolean, data: string): Promise<Session> {
  const roots = [{ name: 'storage', path: storage }]
  return Session.open({ data: path.join(folder, data), roots, workers: 0, analyse })
}

async function asked(engine: Session): Promise<void> {
  const t = await engine.timelines.bringIn({ root: 'storage', path: 'reel.mov' })
  const region = (id: string, from: Frames) => ({ id, name: id, in: from, out: 250, metadata: {} })
  const regions = [region('whole', 0), region('programme', programme)]
  await engine.timelines.saveSplit(t.id, { regions, markers: [] }, 1)
  const rules = measures.map((measure) => ({
    ...{ id: measure, measure, severity: 'should' as const, expect: { equals: 'x' }, clause: '1' },
  }))
  const about = { format: 'velvet-crane-spec/1', id: 'all', name: 'All', recipient: 'All', issued: '2026-03-01' }
  await engine.outlets.saveSpec(parseSpec({ ...about, rules }))
  await engine.outlets.save(outlet('house', 'storage', recipe('master'), { spec: 'all' }))
  const keys = regions.map((r) => ({ timelineId: t.id, regionId: r.id, outletId: 'house' }))
  await engine.outlets.choose(keys, true)
  await drain(engine)
}

const readings = (d: { results: readonly { rule: { measure: string }; forecast: { value: unknown } | null }[] }) =>
  Object.fromEntries(
    measures.map((m) => [m, d.results.find((r) => r.rule.measure === m)!.forecast?.value ?? 'not known']),
  )

it('is told from its programme before the night, in the file, and by a stranger', async () => {
  mkdirSync(storage, { recursive: true })
  await reel()
  const engine = await testEngine(folder)
  await asked(engine)
  const [whole, alone] = await deliverables(engine)
  const own = readings(whole!)
  expect(own).toMatchObject({
    ...{ 'line-up': ['line-up', 'clock', 'black'], 'programme-start': '10:00:00:00', 'programme-duration': 4 },
  })
  const near = expect.closeTo(-18, 1) as number
  expect(own['tone-level']).toEqual([near, near])
  const programmeAlone = readings(alone!)
  expect(programmeAlone).toMatchObject({ 'line-up': [], 'programme-start': '10:00:00:00' })
  for (const m of ['loudness', 'true-peak', 'black']) expect([m, own[m]]).toEqual([m, programmeAlone[m]])
  expect(whole!.output.notes!.join()).toMatch(/begins with line-up of its own .* from 10:00:00:00 on/)
  expect(alone!.output.notes ?? []).toEqual([])

  await engine.nights.start('night', 2, [keyText(whole!)])
  await drain(engine)
  const [done] = (await latestRun(engine)).items
  expect([done!.state, done!.problem]).toEqual(['done', null])
  const { proof } = (await engine.handover.one(done!.id))!
  const stranger = await measureFile(path.join(storage, done!.path))
  const written = Object.fromEntries(proof.results.map((r) => [r.rule.measure, r.written]))
  for (const m of measures) {
    const [ours, theirs] = [written[m]!.value, stranger[m]!.value]
    if (m === 'tone-level') expect(theirs).toEqual((ours as number[]).map((v) => expect.closeTo(v, 2) as number))
    else if (typeof ours === 'number') expect([m, Math.abs(ours - (theirs as number)) < 0.01]).toEqual([m, true])
    else expect([m, ours]).toEqual([m, theirs])
  }
  expect(written.loudness!.value).toBeCloseTo(own.loudness as number, 2)

  // a sound file says the loudness of the programme, without the tone that it begins with
  await engine.outlets.save(outlet('mix', 'storage', recipe('sound')))
  const mix = { timelineId: whole!.timelineId, regionId: 'whole', outletId: 'mix' }
  await engine.outlets.choose([mix], true)
  await drain(engine)
  await engine.nights.start('mix', 2, [keyText(mix)])
  await drain(engine)
  const [heard] = (await latestRun(engine)).items
  const wave = await openMediaFile(path.join(storage, heard!.path), heard!.path)
  expect(wave.info.bext!.loudness).toBeCloseTo(own.loudness as number, 1)
  expect(wave.info.bext!.loudness!).toBeLessThan(-23)
  await wave.close()
  await engine.outlets.choose([mix], false)

  // line-up made in front of it would be a second one
  const [before] = await engine.outlets.all().then((s) => s.outlets)
  await engine.outlets.save({ ...before!, recipe: recipe('broadcast', { lineUp: -18 }) })
  await drain(engine)
  const trap = (await deliverables(engine)).map((d) => d.results.find((r) => r.rule.measure === 'line-up-twice')!)
  expect(trap.map((r) => [r.verdict, r.fix?.overrides ?? null])).toEqual([
    ['caution', { lineUp: null }],
    ['pass', null],
  ])
  await engine.close()
})

it('is told without a pass over the timeline as well', async () => {
  const engine = await begun(false, 'alone')
  await asked(engine)
  const own = readings((await deliverables(engine))[0]!)
  expect(own).toMatchObject({ 'line-up': ['line-up', 'clock', 'black'], 'programme-duration': 4 })
  await engine.close()
})
