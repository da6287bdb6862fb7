import { execSync } from 'node:child_process'
import {
  copyFileSync,
  existsSync,
  mkdirSync,
  readFileSync,
  readdirSync,
  renameSync,
  rmSync,
  truncateSync,
  utimesSync,
  writeFileSync,
} from 'node:fs'
import { Readable } from 'node:stream'
import path from 'node:path'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { encodePcm } from '../../core/codec/pcm/pcm'
import { keyText } from '../../core/deliverable/outlet'
import { ProblemError } from '../../core/problem'
import {
  drain,
  outlet,
  recipe,
  scratchFolder,
  smallPlan,
  smallReel,
  testEngine,
  deliverables,
  latestRun,
} from '../../tests/fixtures'
import type { Session } from '../session'
import { fingerprintOf } from '../storage/fingerprint'

const has = (tool: string) => {
  try {
    execSync(`command -v ${tool}`, { stdio: 'ignore' })
    return true
  } catch {
    return false
  }
}

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
let engine: Session
let serial = 0

beforeAll(async () => {
  mkdirSync(storage, { recursive: true })
  await smallReel(path.join(storage, 'reel.mov'), { sound: 'pcm' })
})
beforeEach(async () => {
  await engine?.close()
  rmSync(path.join(folder, 'data'), { recursive: true, force: true })
  engine = await testEngine(folder)
})
afterAll(async () => {
  await engine.close()
  remove()
})

const codeOf = (p: Promise<unknown>) =>
  p.then(
    () => 'none',
    (e: unknown) => (e instanceof ProblemError ? e.problem.code : String(e)),
  )

/** A timeline over a copy of the reel, sent whole to an outlet. */
async function ready(
  changes: Parameters<typeof outlet>[3] = {},
  kind: 'sound' | 'rewrap' | 'master' | 'viewing' = 'sound',
) {
  const file = `copy${++serial}.mov`
  copyFileSync(path.join(storage, 'reel.mov'), path.join(storage, file))
  const t = await engine.timelines.bringIn({ root: 'storage', path: file })
  await engine.timelines.saveSplit(
    t.id,
    { regions: [{ id: 'r', name: 'Fog Bell', in: 10, out: 60, metadata: {} }], markers: [] },
    1,
  )
  await engine.outlets.save(outlet('o', 'storage', recipe(kind), { folder: `out${serial}`, ...changes }))
  await engine.outlets.choose([{ timelineId: t.id, regionId: 'r', outletId: 'o' }], true)
  return { t, file }
}
const outcome = async () => (await latestRun(engine))!.items.map((i) => [i.state, i.problem?.code ?? null])

describe('bringing in', () => {
  it('names what is wrong with bad files, and keeps nothing of them', async () => {
    writeFileSync(path.join(storage, 'empty.mov'), '')
    writeFileSync(path.join(storage, 'letter.mp4'), 'Dear Quayhouse Post, this is not a film at all.')
    copyFileSync(path.join(storage, 'reel.mov'), path.join(storage, 'cut.mov'))
    truncateSync(path.join(storage, 'cut.mov'), 700)
    const at = (p: string) => codeOf(engine.timelines.bringIn({ root: 'storage', path: p }))
    expect(await at('empty.mov')).toBe('media.empty')
    expect(await at('letter.mp4')).toBe('media.unknown')
    expect(await at('cut.mov')).toBe('mp4.no-index')
    expect(await at('missing.mov')).toMatch(/ENOENT/)
    expect(await at('../reel.mov')).toBe('root.outside')
    expect(await engine.timelines.list()).toEqual([])
  })
  it('refuses a second timeline of one name', async () => {
    await engine.timelines.bringIn({ root: 'storage', path: 'reel.mov' })
    expect(await codeOf(engine.timelines.bringIn({ root: 'storage', path: 'reel.mov' }))).toBe('timeline.same-name')
  })
  it('says at the timeline what does not match its list', async () => {
    writeFileSync(
      path.join(storage, 'odd.edl'),
      'TITLE: x\n001 A V C 00:00:00:00 00:00:09:00 10:00:59:00 10:01:08:00\n002 B V C rubbish\n',
    )
    const t = await engine.timelines.bringIn(
      { root: 'storage', path: 'reel.mov' },
      { cuts: { root: 'storage', path: 'odd.edl' } },
    )
    expect(t.problems.map((p) => p.code)).toEqual(['edl.broken-line', 'timeline.length'])
    expect(t.problems[0]!.where).toBe('odd.edl, line 3')
  })
  it('keeps two windows from overwriting each other', async () => {
    const t = await engine.timelines.bringIn({ root: 'storage', path: 'reel.mov' })
    await engine.timelines.saveSplit(t.id, { regions: [], markers: [] }, 1)
    expect(await codeOf(engine.timelines.saveSplit(t.id, { regions: [], markers: [] }, 1))).toBe('split.moved-on')
  })
  it('takes uploads under safe and free names', async () => {
    const body = () => Readable.from([Uint8Array.from([1, 2, 3])])
    expect(await engine.uploads.take('../../evil name.mov', body())).toEqual({
      root: 'storage',
      path: 'Incoming/evil_name.mov',
    })
    expect(await engine.uploads.take('evil name.mov', body())).toEqual({
      root: 'storage',
      path: 'Incoming/evil_name_v02.mov',
    })
    // many at once, all of one name: each is there, under a name of its own
    const many = await Promise.all(
      Array.from({ length: 60 }, (_, i) => engine.uploads.take('tide.mov', Readable.from([Buffer.from(`${i}`)]))),
    )
    expect(new Set(many.map((m) => m.path)).size).toBe(60)
    const texts = many.map((m) => readFileSync(path.join(folder, 'storage', m.path), 'utf8'))
    expect(texts).toEqual(many.map((_, i) => `${i}`))
    expect(await codeOf(engine.uploads.take('huge.mov', body(), 1e18))).toBe('disk.full')
  })
})

describe('running', () => {
  it('notices media that was replaced after it was brought in', async () => {
    const { file, t } = await ready()
    await drain(engine)
    await engine.nights.start('x', 2)
    await smallReel(path.join(storage, file), { bitrate: 400_000 })
    expect(await engine.timelines.mediaProblem(t)).toMatchObject({ code: 'media.replaced' })
    await drain(engine)
    expect(await outcome()).toEqual([['failed', 'media.replaced']])
  })
  it('looks at every byte of media whose times have changed: copied it is the same, replaced it is not', async () => {
    const { file } = await ready()
    await drain(engine)
    const full = path.join(storage, file)
    utimesSync(full, 1, 1)
    await engine.nights.start('x', 2)
    await drain(engine)
    expect(await outcome()).toEqual([['done', null]])
    const bytes = readFileSync(full)
    const before = await fingerprintOf(full)
    // between the first two samples of a fingerprint
    bytes[Math.floor((65_536 + (bytes.length - 65_536) / 16) / 2)]! ^= 0xff
    writeFileSync(full, bytes)
    expect((await fingerprintOf(full)).samples).toBe(before.samples)
    await engine.nights.start(
      'y',
      2,
      (await engine.nights.judged()).map((d) => keyText(d.draft.key)),
    )
    await drain(engine)
    expect(await outcome()).toEqual([['failed', 'media.replaced']])
  })
  it('names media that is gone, and runs it again from its sheet when it is back', async () => {
    const { file } = await ready()
    await drain(engine)
    const run = await engine.nights.start('x', 2)
    renameSync(path.join(storage, file), path.join(storage, 'away'))
    await drain(engine)
    expect(await outcome()).toEqual([['failed', 'file.missing']])
    renameSync(path.join(storage, 'away'), path.join(storage, file))
    await engine.runs.again(`${run}-001`)
    await drain(engine)
    expect(await outcome()).toEqual([['done', null]])
  })
  it('never overwrites: the next free version is taken', async () => {
    await ready()
    await drain(engine)
    const out = path.join(storage, `out${serial}`)
    await engine.nights.start('x', 2)
    mkdirSync(out, { recursive: true })
    writeFileSync(path.join(out, '01_Fog_Bell.wav'), 'somebody else’s')
    await drain(engine)
    expect(
      readdirSync(out)
        .filter((f) => f.endsWith('.wav'))
        .sort(),
    ).toEqual(['01_Fog_Bell.wav', '01_Fog_Bell_v02.wav'])
    expect(readFileSync(path.join(out, '01_Fog_Bell.wav'), 'utf8')).toBe('somebody else’s')
    expect((await deliverables(engine))[0]!.path).toBe(`out${serial}/01_Fog_Bell_v03.wav`)
  })
  it('delivers nothing twice unasked: what is there and unchanged stays out, what changed goes again', async () => {
    const { t } = await ready()
    await drain(engine)
    await engine.nights.start('first', 2)
    await drain(engine)
    const summary = async () => (await engine.live.list()).list.find((d) => d.timelineId === t.id)!
    const first = (await summary()).became?.path
    expect(first).toBe(`out${serial}/01_Fog_Bell.wav`)
    expect(await codeOf(engine.nights.start('again', 2))).toBe('run.empty')
    // asked for by its key, it is made once more
    const key = `${t.id}/${(await summary()).regionId}/${(await summary()).outletId}`
    await engine.nights.start('asked', 2, [key])
    await drain(engine)
    expect((await summary()).became?.path).toBe(`out${serial}/01_Fog_Bell_v02.wav`)
    // a file that is gone, or a region that changed, is not delivered
    for (const name of ['01_Fog_Bell.wav', '01_Fog_Bell_v02.wav']) rmSync(path.join(storage, `out${serial}`, name))
    expect((await summary()).became).toBeNull()
    await engine.nights.start('lost', 2)
    await drain(engine)
    expect((await summary()).became?.path).toBe(`out${serial}/01_Fog_Bell.wav`)
    const { split, splitVersion } = await engine.timelines.get(t.id)
    const [region] = split.regions
    await engine.timelines.saveSplit(t.id, { ...split, regions: [{ ...region!, out: region!.out - 1 }] }, splitVersion)
    expect((await summary()).became).toMatchObject({ path: `out${serial}/01_Fog_Bell.wav`, changed: ['out'] })
    const place = { recipe: recipe('sound', { gain: -3 }), folder: `out${serial}` }
    await engine.outlets.save({ ...(await engine.outlets.list()).find((o) => o.id === 'o')!, ...place })
    expect((await summary()).became!.changed).toEqual(['out', 'setting gain'])
  })
  it('keeps what fails a must-rule out of the run, and only that', async () => {
    const { t } = await ready({ spec: 'northmere' }, 'master')
    await engine.outlets.save(outlet('p', 'storage', recipe('sound'), { folder: 'out-p' }))
    await engine.outlets.choose([{ timelineId: t.id, regionId: 'r', outletId: 'p' }], true)
    await drain(engine)
    const list = await deliverables(engine)
    await drain(engine)
    expect(list.find((d) => d.outletId === 'o')!.cleared).toBe(false)
    const run = await engine.nights.start('x', 2)
    expect((await engine.progress.view(run)).items.map((i) => i.outlet)).toEqual(['p'])
    await drain(engine)
  })
  it('refuses a finished file that is not what was asked, and keeps it to be looked at', async () => {
    const { t } = await ready({ spec: 'lantern' }, 'viewing')
    await drain(engine)
    await deliverables(engine)
    await drain(engine)
    const [d] = await engine.nights.judged()
    const sheet = engine.runs.freeze('x', 2, [d!])
    // a sheet whose spec asks for what the recipe will not give
    const strict = {
      ...sheet,
      deliverables: [...sheet.deliverables].map((i) => ({
        ...i,
        spec: {
          ...i.spec,
          rules: [
            {
              id: 'raster',
              measure: 'raster' as const,
              severity: 'must' as const,
              expect: { equals: '720x576' },
              clause: 'x',
            },
          ],
        },
      })),
    }
    await engine.runs.start(strict)
    await drain(engine)
    expect(await outcome()).toEqual([['failed', 'prove.refused']])
    expect(readdirSync(path.join(storage, `out${serial}`)).filter((f) => f.endsWith('.mp4'))).toEqual([
      '01_Fog_Bell.refused.mp4',
    ])
    expect(t.id).toBeTruthy()
  })
  it('makes a viewing copy of a source without sound, without sound', async () => {
    await smallReel(path.join(storage, 'mute.mov'), { channels: [] })
    const t = await engine.timelines.bringIn({ root: 'storage', path: 'mute.mov' })
    const regions = [{ id: 'r', name: 'Fog Bell', in: 10, out: 60, metadata: {} }]
    await engine.timelines.saveSplit(t.id, { regions, markers: [] }, 1)
    await engine.outlets.save(outlet('o', 'storage', recipe('viewing'), { folder: 'mute' }))
    await engine.outlets.choose([{ timelineId: t.id, regionId: 'r', outletId: 'o' }], true)
    await drain(engine)
    await engine.nights.start('x', 2)
    await drain(engine)
    expect(await outcome()).toEqual([['done', null]])
  })
  it('pauses, stops and goes on; a skipped file is left out', async () => {
    await ready({}, 'rewrap')
    await drain(engine)
    const run = await engine.nights.start('x', 2)
    await engine.runs.setState(run, 'paused')
    await drain(engine)
    expect(await outcome()).toEqual([['waiting', null]])
    await engine.runs.setState(run, 'stopped')
    await engine.runs.setState(run, 'running')
    await engine.runs.skip(`${run}-001`)
    await drain(engine)
    expect(await outcome()).toEqual([['skipped', null]])
    expect((await engine.progress.view(run)).state).toBe('done')
  })
  it('two deliverables of one name are found, and neither is lost', async () => {
    const { t } = await ready({ pattern: '{show}' })
    await engine.timelines.saveSplit(
      t.id,
      {
        regions: [
          { id: 'r', name: 'a', in: 0, out: 30, metadata: {} },
          { id: 's', name: 'b', in: 30, out: 60, metadata: {} },
        ],
        markers: [],
      },
      2,
    )
    await engine.outlets.choose([{ timelineId: t.id, regionId: 's', outletId: 'o' }], true)
    const list = await deliverables(engine)
    expect(list.map((d) => [d.cleared, d.results.find((r) => r.rule.measure === 'file-name')!.verdict])).toEqual([
      [false, 'fail'],
      [false, 'fail'],
    ])
  })
})

let mounted = ''
const canMount = (() => {
  const place = path.join(folder, 'small')
  try {
    mkdirSync(place)
    execSync(`mount -t tmpfs -o size=3m tmpfs ${place}`, { stdio: 'ignore' })
    mounted = place
    return true
  } catch {
    return false
  }
})()
afterAll(() => {
  if (mounted) execSync(`umount ${mounted}`)
})

async function openWithSmallDisk(): Promise<void> {
  await engine.close()
  const { Session } = await import('../session')
  engine = await Session.open({
    data: path.join(folder, 'data'),
    roots: [
      { name: 'storage', path: storage },
      { name: 'small', path: mounted },
    ],
    workers: 0,
  })
}

describe.skipIf(!canMount)('a full disk', () => {
  it('is forecast, and when it happens all the same only that file fails', async () => {
    await openWithSmallDisk()
    const { t } = await ready({ root: 'small', folder: '' }, 'master')
    await engine.outlets.save(outlet('p', 'storage', recipe('sound'), { folder: `sound${serial}` }))
    await engine.outlets.choose([{ timelineId: t.id, regionId: 'r', outletId: 'p' }], true)
    await drain(engine)
    const d = (await deliverables(engine)).find((x) => x.outletId === 'o')!
    expect(d.results.find((r) => r.rule.measure === 'free-room')).toMatchObject({ verdict: 'fail' })
    await engine.nights.waive([{ timelineId: t.id, regionId: 'r', outletId: 'o' }], {
      rule: 'house-room',
      reason: 'test',
      initials: 'QP',
      at: '',
    })
    await drain(engine)
    await engine.nights.start('x', 2)
    await drain(engine)
    expect(await outcome()).toEqual([
      ['failed', 'disk.full'],
      ['done', null],
    ])
    expect(readdirSync(mounted)).toEqual([])
  })
})

describe.skipIf(!canMount)('a disk that can only be read', () => {
  it('is called that, in the checks and when a file fails for it', async () => {
    await openWithSmallDisk()
    const { t } = await ready({ root: 'small', folder: '' })
    await drain(engine)
    execSync(`mount -o remount,ro ${mounted}`)
    try {
      const d = (await deliverables(engine)).find((x) => x.outletId === 'o')!
      expect([d.cleared, d.results.filter((r) => r.blocks).map((r) => r.why)]).toEqual([
        false,
        [
          'Can be made here: no. The storage root “small” can only be read. ' +
            'Unlock it or mount it for writing, or choose another destination; required: yes.',
        ],
      ])
      const waiver = { rule: 'house-possible', reason: 'test', initials: 'QP', at: '' }
      await engine.nights.waive([{ timelineId: t.id, regionId: 'r', outletId: 'o' }], waiver)
      await engine.nights.start('x', 2)
      await drain(engine)
      expect(await outcome()).toEqual([['failed', 'root.read-only']])
    } finally {
      execSync(`mount -o remount,rw ${mounted}`)
    }
  })
})

describe('sound files, read by others', () => {
  it.skipIf(!has('sox') || !has('sndfile-info'))('sox and libsndfile agree on what is in them', async () => {
    await ready()
    await drain(engine)
    await engine.nights.start('x', 2)
    await drain(engine)
    const file = path.join(storage, `out${serial}`, '01_Fog_Bell.wav')
    expect(existsSync(file)).toBe(true)
    expect(
      execSync(`soxi -r "${file}" && soxi -c "${file}" && soxi -b "${file}" && soxi -s "${file}"`)
        .toString()
        .trim()
        .split('\n'),
    ).toEqual(['48000', '2', '24', '96000'])
    const info = execSync(`sndfile-info --broadcast "${file}"`).toString()
    expect(info).toContain('Velvet Crane')
    // what sox decodes is, sample for sample, what the source was made of: frames 10 to 60 begin at sample 19 200
    const raw = execSync(`sox "${file}" -t s24 -`, { maxBuffer: 1 << 28 })
    const wanted = encodePcm(
      smallPlan().channels.map((c) => c.subarray(19_200, 115_200)),
      24,
      true,
    )
    expect(raw.equals(wanted)).toBe(true)
  })
  it.skipIf(!has('identify'))('ImageMagick reads the stills', async () => {
    const { t } = await ready()
    await drain(engine)
    const still = path.join(folder, 'still.jpg')
    writeFileSync(still, await engine.viewing.picture(t, 30, 480))
    expect(execSync(`identify -format "%m %w %h" "${still}"`).toString()).toBe('JPEG 480 270')
  })
})
