import { mkdirSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { frozenSchema, sheetSchema } from '../../core/deliverable/sheet'
import { openSpec } from '../../core/spec/shipped'
import { drain, outlet, recipe, scratchFolder, smallReel, testEngine, deliverables } from '../../tests/fixtures'
import type { Session } from '../session'
import { factKeys, readFacts } from '../store/facts'
import { identitySum } from '../store/deliverables'
import { traceSize } from '../../core/analysis/trace'
import { frameKept, frameWriter, readPreview, readTraces } from '../storage/framestore'
import { folderOf } from '../worker/proving/report'
import { checkFingerprint, fingerprintOf } from '../storage/fingerprint'
import type { SplitTimeline } from '../../core/split/timeline'

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
let engine: Session
let t: SplitTimeline
const at = (regionId: string, outletId = 'o') => ({ timelineId: t.id, regionId, outletId })

beforeAll(async () => {
  mkdirSync(path.join(storage, 'Ferry'), { recursive: true })
  await smallReel(path.join(storage, 'Ferry', 'reel.mov'))
  engine = await testEngine(folder)
  t = await engine.timelines.bringIn({ root: 'storage', path: 'Ferry/reel.mov' })
  const region = (id: string, name: string, from: number, to: number) => ({
    id,
    name,
    in: from,
    out: to,
    metadata: {} as Record<string, string>,
  })
  await engine.timelines.saveSplit(
    t.id,
    {
      regions: [
        region('b', 'Fog Bell', 50, 90),
        region('a', 'Morning Chain', 0, 50),
        region('c', 'Low / Water: 2', 90, 500),
      ],
      markers: [],
    },
    1,
  )
  await engine.outlets.save(
    outlet('o', 'storage', recipe('viewing'), {
      spec: 'lantern',
      pattern: '{show}/{number}_{region}_{version}',
      folder: 'out',
    }),
  )
  await drain(engine)
  await engine.outlets.choose(
    ['a', 'b', 'c'].map((r) => at(r)),
    true,
  )
})
afterAll(async () => {
  await engine.close()
  remove()
})
const list = () => deliverables(engine)

describe('deliverables', () => {
  it('are numbered in the order of the timeline, with safe names', async () => {
    expect((await list()).map((d) => d.path)).toEqual([
      'out/Ferry/01_Morning_Chain_v01.mp4',
      'out/Ferry/02_Fog_Bell_v01.mp4',
      'out/Ferry/03_Low_-_Water-_2_v01.mp4',
    ])
  })
  it('end with the timeline, whatever a region says', async () => expect((await list())[2]!.output.frames).toBe(30))
  it('take the next version when a file is there', async () => {
    mkdirSync(path.join(storage, 'out/Ferry'), { recursive: true })
    writeFileSync(path.join(storage, 'out/Ferry/02_Fog_Bell_v01.mp4'), '')
    expect((await list())[1]).toMatchObject({ path: 'out/Ferry/02_Fog_Bell_v02.mp4', version: 2 })
  })
  it('are measured once for each stretch and route, in the background', async () => {
    expect((await list()).every((d) => d.undecided)).toBe(true)
    await drain(engine)
    const measured = await list()
    expect(measured.some((d) => d.pending)).toBe(false)
    const key = factKeys.regionSound(t.fingerprint, [{ in: 0, out: 50 }], { route: [0, 1] })
    expect((await readFacts(engine.db, [key])).get(key)).toMatchObject({
      peaks: [expect.any(Number) as number, expect.any(Number) as number],
    })
    expect(measured[0]!.results.find((r) => r.rule.measure === 'loudness')!.source!.from).toBe(
      'measured over the region',
    )
  })
  it('follow an override of one value for one region, and its way back', async () => {
    await engine.outlets.override([at('b')], { gain: -6, burnTimecode: true })
    const [a, b] = await list()
    expect([a!.recipe.gain, b!.recipe.gain, b!.recipe.burnTimecode]).toEqual([0, -6, true])
    const reading = (d: typeof a) => d!.results.find((r) => r.rule.measure === 'true-peak')!
    expect((reading(b).forecast!.value as number) - (reading(b).source!.value as number)).toBeCloseTo(-6, 6)
    await engine.outlets.override([at('b')], {}, ['gain', 'burnTimecode'])
    expect((await list())[1]!.overrides).toEqual({})
  })
  it('forget measures of edges that moved on before anybody measured them', async () => {
    const move = async (out: number) => {
      const now = await engine.timelines.get(t.id)
      await engine.timelines.saveSplit(
        t.id,
        { ...now.split, regions: now.split.regions.map((r) => (r.id === 'a' ? { ...r, out } : r)) },
        now.splitVersion,
      )
      await list()
    }
    for (const out of [49, 48, 47]) await move(out)
    const queued = await engine.db
      .selectFrom('step')
      .select('key')
      .where('kind', '=', 'measure-sound')
      .where('state', '=', 'ready')
      .execute()
    expect(queued.map((q) => q.key)).toEqual([
      factKeys.regionSound(t.fingerprint, [{ in: 0, out: 47 }], { route: [0, 1] }),
    ])
    await move(50)
  })
  it('that nobody chose are not there', async () => {
    await engine.outlets.choose([at('c')], false)
    expect((await list()).map((d) => d.regionId)).toEqual(['a', 'b'])
  })
  it('are held against what a field has to repeat, where no rule asks for that itself', async () => {
    const fields = ['frame-rate', 'raster'].map((is) => ({ name: is, is }))
    const rule = { id: 'papers', measure: 'metadata', severity: 'must' as const, expect: { fields }, clause: '1' }
    await engine.outlets.saveSpec({ ...openSpec, id: 'repeating', name: 'Repeating', rules: [rule] })
    await engine.outlets.save(outlet('p', 'storage', recipe('viewing'), { spec: 'repeating' }))
    await engine.outlets.choose([at('a', 'p')], true)
    const said = async (raster: string) => {
      const { split, splitVersion } = await engine.timelines.get(t.id)
      const metadata = { 'frame-rate': '25', raster }
      const regions = split.regions.map((r) => (r.id === 'a' ? { ...r, metadata } : r))
      await engine.timelines.saveSplit(t.id, { ...split, regions }, splitVersion)
      const papers = (await list()).find((d) => d.outletId === 'p')!.results.find((r) => r.rule.id === 'papers')!
      return [papers.verdict, papers.misses]
    }
    expect(await said('1280×720')).toEqual(['pass', undefined])
    expect(await said('640×360')).toEqual(['fail', ['raster “640×360” is not the raster, 1280×720']])
    await engine.outlets.remove('p')
    await engine.outlets.removeSpec('repeating')
  })
  it('are waived as they stand, and as nothing worse', async () => {
    const loudness = async (gain: number) => {
      await engine.outlets.override([at('a')], { gain })
      return (await list())[0]!.results.find((r) => r.rule.measure === 'loudness')!
    }
    const { rule, verdict } = await loudness(20)
    expect(verdict).toBe('caution')
    await engine.nights.waive([at('a')], { rule: rule.id, reason: 'loud', initials: 'QP', at: '2026-11-25' })
    const found = []
    for (const gain of [20, 21, 19]) found.push((await loudness(gain)).verdict)
    expect(found).toEqual(['waived', 'caution', 'waived'])
    await engine.outlets.unwaive([at('a')], rule.id)
    await engine.outlets.override([at('a')], {}, ['gain'])
  })
  it('freeze into a sheet that its schema reads back', async () => {
    const by = { reason: 'agreed', initials: 'QP', at: '2026-11-25', accepted: 'anything' as const }
    await engine.outlets.waive([at('a')], { rule: 'silent', ...by })
    const freezing = engine.runs.freeze('Night', 2, await engine.nights.judged())
    const sheet = { ...freezing, deliverables: [...freezing.deliverables] }
    expect(sheetSchema.parse(JSON.parse(JSON.stringify(sheet)))).toEqual(JSON.parse(JSON.stringify(sheet)))
    expect(sheet.deliverables[0]).toMatchObject({
      title: 'Morning Chain → o',
      waivers: [{ rule: 'silent', initials: 'QP' }],
      source: { path: 'Ferry/reel.mov', fingerprint: t.fingerprint },
      spec: { id: 'lantern' },
      output: { container: 'mp4', frames: 50 },
      route: [0, 1],
    })
    expect(sheet.deliverables[0]!.steps.map((s) => s.kind)).toEqual(['encode-segment', 'encode-sound', 'join', 'prove'])
    expect(frozenSchema.safeParse({ ...sheet.deliverables[0], recipe: {} }).success).toBe(false)
    await engine.outlets.unwaive([at('a')], 'silent')
  })
  it('tell of faults accepted at the desk while their regions lie as they did, and are the same files', async () => {
    const now = await engine.timelines.get(t.id)
    const a = now.split.regions.find((r) => r.id === 'a')!
    const fault = { text: 'begins within a shot', reason: 'the shot is long', initials: 'QP' }
    const accept = async (id: string, ends: { id: string; in: number; out: number }) => {
      const { split, splitVersion } = await engine.timelines.get(t.id)
      const accepted = [...(split.accepted ?? []), { id, ...fault, ends: [ends] }]
      await engine.timelines.saveSplit(t.id, { ...split, accepted }, splitVersion)
    }
    const frozen = async () => engine.runs.freeze('Night', 2, await engine.nights.judged()).deliverables
    const before = identitySum([...(await frozen())][0]!)
    await accept('off-cut a 0-1', { id: 'a', in: a.in, out: a.out })
    await accept('off-cut a 0-2', { id: 'a', in: a.in, out: a.out - 1 })
    const [first, second] = [...(await frozen())]
    expect([first!.accepted, second!.accepted]).toEqual([[fault], undefined])
    expect(frozenSchema.parse(JSON.parse(JSON.stringify(first)))).toMatchObject({ accepted: [fault] })
    expect(identitySum(first!)).toBe(before)
  })
  it('keep their run apart from what happens at the desk afterwards', async () => {
    await drain(engine)
    const run = await engine.nights.start('Night', 2, [`${t.id}/a/o`])
    const now = await engine.timelines.get(t.id)
    await engine.timelines.saveSplit(t.id, { regions: [], markers: [] }, now.splitVersion)
    await drain(engine)
    const view = await engine.progress.view(run)
    expect(view).toMatchObject({
      state: 'done',
      secondsLeft: 0,
      items: [{ state: 'done', verdict: 'caution', region: 'Morning Chain' }],
    })
    const [h] = await engine.handover.list()
    const { proof } = (await engine.handover.one(h!.id))!
    expect(proof).toMatchObject({ frames: 50, info: { container: 'mp4', indexAt: 'front' } })
    expect(proof.ends!.first).toBeLessThan(3)
    expect(await engine.progress.list()).toMatchObject([{ done: 1, total: 1 }])
    await engine.runs.remove(run)
    expect(await engine.progress.list()).toEqual([])
  })
})

describe('outlets', () => {
  it('refuse folders that lead out, and unknown roots', async () => {
    await expect(
      engine.outlets.save(outlet('x', 'storage', recipe('sound'), { folder: '../away' })),
    ).rejects.toMatchObject({ problem: { code: 'outlet.folder' } })
    await expect(engine.outlets.save(outlet('x', 'nowhere', recipe('sound')))).rejects.toMatchObject({
      problem: { code: 'root.unknown' },
    })
  })
  it('take specs of one’s own, but not in the place of those that ship', async () => {
    const spec = {
      format: 'velvet-crane-spec/1' as const,
      id: 'mine',
      name: 'Mine',
      recipient: '',
      issued: '',
      rules: [],
    }
    await engine.outlets.saveSpec(spec)
    await engine.outlets.saveSpec({ ...spec, id: 'passing' })
    await engine.outlets.removeSpec('passing')
    await expect(engine.outlets.removeSpec('passing')).rejects.toMatchObject({ problem: { code: 'spec.unknown' } })
    expect((await engine.outlets.specs()).map((s) => s.id)).toEqual(['northmere', 'osprey', 'lantern', 'mine', 'open'])
    await expect(engine.outlets.saveSpec({ ...spec, id: 'osprey' })).rejects.toMatchObject({
      problem: { code: 'spec.shipped' },
    })
  })
})

describe('timelines', () => {
  it('get their cuts from a list later, and keep their regions', async () => {
    writeFileSync(
      path.join(storage, 'later.edl'),
      'TITLE: x\n001 A V C 00:00:00:00 00:00:02:00 10:00:59:00 10:01:01:00\n* FROM CLIP NAME: Wide\n' +
        '002 B V C 00:00:00:00 00:00:02:20 10:01:01:00 10:01:03:20\n',
    )
    const cut = await engine.timelines.attachCuts(t.id, { root: 'storage', path: 'later.edl' })
    expect(cut.model.events.map((e) => [e.name, e.record.in, e.record.out])).toEqual([
      ['Wide', 0, 50],
      ['', 50, 120],
    ])
    expect(cut.problems).toEqual([])
  })
  it('are renamed and removed; the media stays', async () => {
    await engine.timelines.rename(t.id, 'Other')
    expect((await engine.timelines.get(t.id)).model.name).toBe('Other')
    await engine.timelines.remove(t.id)
    await expect(engine.timelines.get(t.id)).rejects.toMatchObject({ problem: { code: 'timeline.unknown' } })
    expect((await fingerprintOf(path.join(storage, 'Ferry', 'reel.mov'))).content).toBe(t.fingerprint.content)
  })
  it('are known at once when they are brought in again', async () => {
    const again = await engine.timelines.bringIn({ root: 'storage', path: 'Ferry/reel.mov' })
    const a = await engine.viewing.analysis(again)
    expect(a).toMatchObject({ progress: 1, pictures: { black: [], flashes: [] } })
    expect(a.sound!.ribbon.length).toBe(48)
    const wav = await engine.viewing.listen(again, 10, 35)
    expect(wav.length).toBeGreaterThan(48_000 * 4)
  })
})

describe('fingerprints', () => {
  it('know a file that was touched but not changed, and one that was changed', async () => {
    const file = path.join(folder, 'x.bin')
    writeFileSync(file, Buffer.alloc(300_000, 7))
    const fingerprint = await fingerprintOf(file)
    await checkFingerprint(file, { ...fingerprint, modified: 1 }, 'x')
    writeFileSync(file, Buffer.alloc(300_000, 8))
    await expect(checkFingerprint(file, { ...fingerprint, modified: 1 }, 'x')).rejects.toMatchObject({
      problem: { code: 'media.replaced' },
    })
  })
})

describe('what is kept of frames', () => {
  it('comes back whole though several are written at once; those not seen yet are none', async () => {
    const w = frameWriter(folder)
    const jpeg = (n: number) => Buffer.alloc(1000 + n * 37, n)
    const trace = (n: number) => Buffer.alloc(traceSize, n + 1)
    const of = (content: string, frame: number) => ({ content, frame })
    await Promise.all(Array.from({ length: 20 }, (_, n) => w.add(of(n % 2 ? 'p' : 'q', n), trace(n), jpeg(n))))
    await w.close()
    for (const n of [1, 7, 19]) expect(await readPreview(folder, of('p', n))).toEqual(jpeg(n))
    expect(await readPreview(folder, of('p', 2))).toBeNull()
    expect(await readPreview(folder, of('p', 20))).toBeNull()
    expect(await readPreview(folder, of('nothing', 0))).toBeNull()
    const other = frameWriter(folder)
    await other.add(of('p', 260), trace(3), jpeg(3))
    await other.add(of('p', 20), trace(20), jpeg(20))
    await other.close()
    expect(await readPreview(folder, of('p', 260))).toEqual(jpeg(3))
    expect(await readPreview(folder, of('p', 7))).toEqual(jpeg(7))
    expect(await readTraces(folder, of('p', 19), 2)).toEqual(Buffer.concat([trace(19), trace(20)]))
    expect([
      await frameKept(folder, of('p', 19)),
      await frameKept(folder, of('p', 21)),
      await frameKept(folder, of('q', 19)),
    ]).toEqual([true, false, false])
    expect(await readTraces(folder, of('p', 260), 2)).toBeNull()
  })
})

describe('reports', () => {
  it('lie in the deepest folder that holds all files', () => {
    expect(folderOf(['a/b/c.mov', 'a/b/d/e.mov'])).toBe('a/b')
    expect(folderOf(['a/c.mov', 'b/d.mov'])).toBe('')
  })
})
