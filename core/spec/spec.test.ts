import { describe, expect, it } from 'vitest'
import type { MediaInfo } from '../media/media'
import { describedMedia, describedOutput } from '../measure/described'
import type { Evidence } from '../measure/measure'
import { pictureNames, soundNames } from '../codec/registry'
import { brands } from '../container/registry'
import { measureOf, measures, readMeasures } from '../measure/registry'
import { scanSchema } from '../media/scan'
import type { PictureFacts } from '../analysis/pictures'
import type { SoundTrouble } from '../analysis/soundstretches'
import type { Output, OutputRequest, Abilities } from '../recipe/output'
import type { Recipe } from '../recipe/recipe'
import { recipeKind, shippedRecipes, withOverrides } from '../recipe/registry'
import { settingText } from '../recipe/settings'
import { routeOf } from '../sound/layout'
import { makeRate } from '../time/rate'
import { fixFor } from '../deliverable/fixes'
import { cleared, expectationText, judge, meets, worstVerdict } from './judge'
import type { SoundFacts } from '../analysis/soundfacts'
import { openSpec, shippedSpecs } from './shipped'
import { parseSpec, rulesFor, rulesForFile, specSchema, type Rule } from './spec'

const pal = { rate: makeRate(25), dropFrame: false, start: 900000 }
const all: Abilities = { encodes: ['h264', 'aac'], decodes: ['h264', 'aac', 'pcm', 'v210', 'uyvy'] }
const source: MediaInfo = {
  container: 'mov',
  indexAt: 'front',
  size: 40_000_000,
  durationFrames: 1000,
  durationSeconds: 40,
  timecode: null,
  chapters: [],
  bext: null,
  problems: [],
  video: [
    {
      codec: 'h264',
      profile: 'High',
      level: '4.0',
      width: 1920,
      height: 1080,
      rate: makeRate(25),
      constantRate: true,
      scan: 'progressive',
      chroma: '4:2:0',
      bitDepth: 8,
      pixelAspect: '1:1',
      colour: null,
      frames: 1000,
      intra: false,
      webCodec: 'avc1.640028',
    },
  ],
  audio: [
    { codec: 'pcm', channels: 4, sampleRate: 48000, bitDepth: 24, samples: 1_920_000, layout: null, webCodec: null },
  ],
}
const describeOutput = (
  settings: Recipe,
  source: MediaInfo,
  timeline: OutputRequest['timeline'],
  range: OutputRequest['range'],
  abilities: Abilities,
) => recipeKind(settings).output({ settings, source, timeline, range, abilities })
const forecastReadings = (o: Output, base: typeof pal) => ({
  ...readMeasures({ described: describedOutput(o, base) }, 'recipe'),
  ...readMeasures({ obstacles: o.problems }, 'this machine'),
})
const fileReadings = (info: MediaInfo, base: typeof pal | null, from: string) =>
  readMeasures({ described: describedMedia(info, base) }, from)
const soundReadings = (sound: SoundFacts, gain: number, from: string) => readMeasures({ sound, gain }, from)
const contentReadings = (pictures: PictureFacts, base: typeof pal, from: string) =>
  readMeasures({ pictures, base }, from)
const troubleReadings = (trouble: SoundTrouble, base: typeof pal, from: string) => readMeasures({ trouble, base }, from)
const recipe = (kind: Recipe['kind'], more: Partial<Recipe> = {}): Recipe => ({
  ...shippedRecipes().find((r) => r.kind === kind)!,
  ...more,
})
const output = (r: Recipe, abilities = all) => describeOutput(r, source, pal, { in: 100, out: 225 }, abilities)
const facts: SoundFacts = {
  integrated: -14.5,
  range: 3,
  truePeak: -2,
  momentaryMax: -12,
  shortTermMax: -13,
  peaks: [-3, -3],
  pairs: [{ channels: [0, 1], correlation: 0.9, alike: false }],
  others: [],
  untold: [],
}
const delivery = { pictures: true, trial: false }
const northmere = shippedSpecs.find((s) => s.id === 'northmere')!

function judged(r: Recipe, sound = facts, waivers: Parameters<typeof judge>[4] = []) {
  const forecast = { ...forecastReadings(output(r), pal), ...soundReadings(sound, r.gain, 'measured') }
  return judge(
    rulesFor(northmere, 'before', delivery),
    forecast,
    { ...fileReadings(source, pal, 'source'), ...soundReadings(sound, 0, 'measured') },
    null,
    waivers,
  )
}
const by = (list: ReturnType<typeof judged>, id: string) => list.find((r) => r.rule.id === id)!

describe('forecasts', () => {
  it('an uncompressed master is exactly as long as its frames', () => {
    const o = output(recipe('master'))
    expect(o).toMatchObject({
      container: 'mov',
      frames: 125,
      samples: 240_000,
      start: { label: '10:00:04:00' },
      video: { codec: 'v210', bitDepth: 10, chroma: '4:2:2' },
      audio: { channels: 4, bitDepth: 24 },
    })
    expect(o.bytes).toBe(5_529_600 * 125 + 240_000 * 12 + 20_000)
  })
  it('says what keeps a recipe from being made', () => {
    const codes = (r: Recipe, a = all) => output(r, a).problems.map((p) => p.code)
    expect(codes(recipe('viewing'))).toEqual([])
    expect(codes(recipe('viewing'), { encodes: [], decodes: ['pcm'] })).toEqual([
      'codec.none',
      'codec.none',
      'codec.none',
    ])
    expect(codes(recipe('viewing', { channels: 'all' }))).toEqual(['recipe.channel'])
    expect(codes(recipe('master', { channels: [7] }))).toEqual(['recipe.channel'])
    expect(codes(recipe('rewrap', { container: 'mp4' }))).toEqual(['recipe.container'])
    expect(codes(recipe('sound', { channels: 'none' }))).toEqual(['recipe.no-sound'])
    expect(codes(recipe('master', { start: '10:00:00:99' }))).toEqual(['recipe.start'])
  })
  it('does not let pictures lose depth or chroma in silence', () => {
    const deep = { ...source, video: [{ ...source.video[0]!, bitDepth: 10, chroma: '4:2:2' as const }] }
    const codes = (kind: Recipe['kind']) =>
      describeOutput(recipe(kind), deep, pal, { in: 0, out: 10 }, all).problems.map((p) => p.code)
    expect([codes('master'), codes('viewing'), codes('rewrap')]).toEqual([['codec.depth'], [], []])
  })
  it('routes channels, with 0 as silence', () => {
    expect(routeOf('all', 4)).toEqual([0, 1, 2, 3])
    expect(routeOf([2, 0, 1], 4)).toEqual([1, -1, 0])
    expect(routeOf('none', 4)).toEqual([])
  })
  it('overrides single values, and only those the recipe has', () => {
    expect(withOverrides(recipe('sound'), { gain: -3, width: 640 })).toMatchObject({ gain: -3, width: null })
    expect(settingText('channels', [1, 0, 2])).toBe('1 – 2')
    expect(settingText('gain', -8.5)).toBe('−8.5 dB')
  })
})

describe('judging', () => {
  it.each([
    [25, { equals: 25 }, true],
    ['a', { oneOf: ['b', 'a'] }, true],
    [-22.5, { target: -23, tolerance: 0.5 }, true],
    [-22.46, { target: -23, tolerance: 0.5 }, false],
    [-1, { max: -1 }, true],
    [-0.96, { max: -1 }, false],
    [29.96, { min: 30 }, false],
    [(900 * 1001) / 30000, { min: 30.03 }, true],
    ['aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa!', { matches: '^(a+)+$' }, false],
    ['x', { matches: '(' }, false],
    [3, { min: 5, max: 9 }, false],
    ['x.mov', { matches: '^[a-z.]+$' }, true],
    [['a', 'b'], { includes: ['b'] }, true],
    [['a'], { includes: ['b'] }, false],
    ['5', { min: 1 }, false],
  ] as const)('%j held against %j', (value, e, passes) => expect(meets(value as never, e as never)).toBe(passes))
  it('says what counts or lists behind a colon, so that every sentence is one', () => {
    const said = (measure: string, expect: Rule['expect'], evidence: Evidence) => {
      const readings = { [measure]: { ...measureOf(measure).read(evidence)!, from: 'here' } }
      return judge([{ id: 'r', measure, severity: 'must', expect, clause: '' }], readings, {}, null, [])[0]!.why
    }
    const base = pal
    expect([
      said('flashes', { max: 0 }, { pictures: { flashes: [] } as unknown as PictureFacts, base }),
      said('possible', { equals: true }, { obstacles: [{ code: 'x', message: 'There is no encoder for AAC.' }] }),
      said('silent-channel', { max: 0 }, { sound: { peaks: [null, -3] } as unknown as SoundFacts }),
      said('true-peak', { max: -1 }, { sound: { truePeak: -0.5 } as SoundFacts }),
    ]).toEqual([
      'Flashes: none, as required.',
      'Can be made here: no. There is no encoder for AAC; required: yes.',
      'Silent channels: channel 1; required: none.',
      'True peak will be −0.5 dBTP; required: at most −1 dBTP.',
    ])
  })
  it('goes by nothing that a source only says of itself, or that changes on the way', () => {
    const rule: Rule = { id: 'r', measure: 'black', severity: 'must', expect: { max: 0 }, clause: '' }
    const of = (aside: 'said' | 'changed' | null, written: number | null = null) => {
      const source = { black: { value: 0, text: 'none', from: 'here', ...(aside ? { aside } : {}) } }
      const read = written === null ? null : { black: { value: written, text: `${written}`, from: 'file' } }
      const { verdict, blocks, source: told } = judge([rule], {}, source, read, [])[0]!
      return [verdict, blocks, told?.text]
    }
    expect(of(null)).toEqual(['pass', false, 'none'])
    expect(of('said')).toEqual(['unmeasured', true, 'none'])
    expect(of('changed')).toEqual(['later', false, 'none'])
    expect(of('changed', 1)).toEqual(['fail', true, 'none'])
  })
  it('has somebody look at what is changed on the way and does not do in the source', () => {
    const rule: Rule = { id: 'r', measure: 'black', severity: 'must', expect: { max: 0 }, clause: '' }
    const of = (value: number | null) => {
      const black = { value, text: '2 stretches', from: 'here', aside: 'changed' as const }
      return judge([rule], {}, { black }, null, [])[0]!
    }
    expect([of(0), of(null)].map((r) => r.verdict)).toEqual(['later', 'later'])
    expect(of(2)).toMatchObject({ verdict: 'caution', blocks: false })
    expect(of(2).why).toMatch(/of the source: 2 stretches; required: none\. Its pictures are changed on the way/)
  })
  it('does not let pass what coding may still move beyond what is required', () => {
    const rule: Rule = { id: 'r', measure: 'true-peak', severity: 'must', expect: { max: -1 }, clause: '' }
    const of = (value: number, give?: number) => {
      const off = give ? { give: { by: give, when: 'before it is coded' } } : {}
      const reading = { value, text: `${value} dBTP`, from: 'here', ...off }
      return judge([rule], { 'true-peak': reading }, {}, null, [])[0]!
    }
    expect([of(-1.5), of(-4.5, 3), of(-0.5, 3)].map((r) => r.verdict)).toEqual(['pass', 'pass', 'fail'])
    expect(of(-3.5, 3)).toMatchObject({
      ...{ verdict: 'caution', blocks: false },
      why: 'True peak will be -3.5 dBTP before it is coded, which may move it by 3 dB; required: at most −1 dBTP.',
    })
    // silence stays silence
    expect(of(-Infinity, 3).verdict).toBe('pass')
    const r = recipe('viewing')
    const fix = fixFor({ ...of(-3.5, 3), verdict: 'caution' }, r, source)!
    expect(fix.overrides).toEqual({ gain: -0.6 })
  })
  it('lets a rough forecast decide only where it is far enough from what is required', () => {
    const of = (value: number, by: number | null, expect: Rule['expect'] = { max: 1 }) => {
      const give = by === null ? {} : { give: { by, when: 'as forecast' } }
      const reading = { value, text: `about ${value} GB`, from: 'here', aside: 'rough' as const, ...give }
      const rule: Rule = { id: 'r', measure: 'file-size', severity: 'must', expect, clause: '' }
      const { verdict, blocks } = judge([rule], { 'file-size': reading }, {}, null, [])[0]!
      return [verdict, blocks]
    }
    // coded pictures may take any fewer bytes, or more
    expect([of(0.4, null), of(9, null)]).toEqual([
      ['later', false],
      ['caution', false],
    ])
    expect([of(0.8, 0.1), of(1.2, 0.1)]).toEqual([
      ['pass', false],
      ['fail', true],
    ])
    expect([of(0.95, 0.1), of(1.05, 0.1)].map(([verdict]) => verdict)).toEqual(['later', 'caution'])
    // what is asked for may lie between the forecast and its ends
    expect(of(1, 0.5, { min: 1.1, max: 1.2 })[0]).toBe('caution')
    expect(of(1, 0.5, { target: 1.25, tolerance: 0.01 })[0]).toBe('caution')
  })
  it('says where there is room for what is forecast, and none for as much as that may be off', () => {
    const rule: Rule = { id: 'r', measure: 'free-room', severity: 'must', expect: { min: 0 }, clause: '' }
    const of = (needed: number, rough: number) => {
      const reading = measureOf('free-room').read({ room: { free: 5e9, needed, rough } } as Evidence)!
      const { verdict, why } = judge([rule], { 'free-room': { ...reading, from: 'storage' } }, {}, null, [])[0]!
      return { verdict, why }
    }
    expect([of(4e9, 0), of(2e9, 2e9), of(6e9, 2e9)].map((r) => r.verdict)).toEqual(['pass', 'pass', 'fail'])
    expect(of(4e9, 3e9)).toEqual({
      verdict: 'caution',
      why:
        'Free room: 5.0 GB free, 4.0 GB needed by all as forecast, which may move it by 3.0 GB; ' +
        'required: enough room.',
    })
  })
  it('says what is required, what will be, and where that comes from', () => {
    const r = by(judged(recipe('master')), 'loudness')
    expect(r).toMatchObject({
      verdict: 'fail',
      required: '−23 ±0.5 LUFS',
      decidedBy: 'forecast',
      why: 'Integrated loudness will be −14.5 LUFS; required: −23 ±0.5 LUFS.',
    })
    expect(r.source!.text).toBe('−14.5 LUFS')
  })
  it('a should-rule that misses is a caution; what nobody measured is unmeasured', () => {
    const list = judge(northmere.rules, { 'programme-duration': { value: 2, text: '2 s', from: '' } }, {}, null, [])
    expect([by(list, 'duration').verdict, by(list, 'black').verdict]).toEqual(['caution', 'unmeasured'])
    expect(worstVerdict(list.map((r) => r.verdict))).toBe('caution')
  })
  it('a must-rule that nobody could measure keeps a file back, until it is waived by name', () => {
    const rules = northmere.rules.filter((r) => r.id === 'black' || r.id === 'range')
    expect(rules.map((r) => r.severity)).toEqual(['should', 'must'])
    const list = judge(rules, {}, {}, {}, [])
    expect(list.map((r) => [r.verdict, r.blocks])).toEqual([
      ['unmeasured', false],
      ['unmeasured', true],
    ])
    expect(list[1]!.why).toBe('Black: could not be measured.')
    expect(cleared(list)).toBe(false)
    const w = { rule: 'black', reason: 'seen by eye', initials: 'QP', at: '', accepted: 'anything' as const }
    const waived = judge(rules, {}, {}, {}, [w])
    expect([waived[1]!.verdict, cleared(waived)]).toEqual(['waived', true])
  })
  it('what is asked of a written file only has not passed before', () => {
    const list = judge(rulesFor(openSpec, 'before', delivery), {}, {}, null, [])
    expect(list.filter((r) => r.rule.id.startsWith('house-f')).map((r) => [r.rule.id, r.verdict, r.blocks])).toEqual([
      ['house-first', 'later', false],
    ])
    expect([worstVerdict(['later', 'pass']), worstVerdict(['later'])]).toEqual(['pass', 'later'])
  })
  it('says the value itself where its rounded text would seem to be met', () => {
    const list = judge(northmere.rules, readMeasures({ sound: { ...facts, truePeak: -0.96 } }, 'f'), {}, null, [])
    expect(by(list, 'peak')).toMatchObject({
      verdict: 'fail',
      why: 'True peak will be −0.96 dBTP; required: at most −1 dBTP.',
    })
  })
  it('a file that is not whole fails, whatever its recipient asks', () => {
    const damage = [{ code: 'file.truncated', message: 'The file breaks off.', damage: true as const }]
    const list = judge(rulesForFile(openSpec), {}, {}, readMeasures({ damage }, 'file'), [])
    expect(list.map((r) => [r.rule.id, r.verdict])).toEqual([
      ['house-intact', 'fail'],
      ['house-shown', 'unmeasured'],
      ['trap-order', 'unmeasured'],
      ['trap-fields', 'unmeasured'],
      ['trap-cadence', 'unmeasured'],
      ['trap-stated', 'unmeasured'],
      ['trap-filled-up', 'unmeasured'],
      ['trap-captions', 'unmeasured'],
    ])
    expect(list[0]!.why).toBe('File itself is not whole (The file breaks off); required: whole.')
  })
  it('tells silence from sound that is too short for a figure', () => {
    const none = { ...facts, integrated: null, range: null, momentaryMax: null, shortTermMax: null }
    const of = (f: SoundFacts) => {
      const r = soundReadings(f, 0, '')
      return [r.loudness!.value, r.loudness!.text, r['true-peak']!.text]
    }
    expect(of(none)).toEqual([null, 'it is shorter than the 0.4 s loudness is measured over', '−2.0 dBTP'])
    expect(of({ ...none, truePeak: null, peaks: [null, null] })).toEqual([-Infinity, 'silence', 'silence'])
    expect(of({ ...none, momentaryMax: -80 })).toEqual([-Infinity, 'under −70 LUFS', '−2.0 dBTP'])
  })
  it('a waiver clears a must-rule and stays to be seen', () => {
    const w = { rule: 'loudness', reason: 'as agreed', initials: 'QP', at: '', accepted: 'anything' as const }
    const list = judged(recipe('master', { start: '10:00:00:00' }), facts, [w])
    expect(by(list, 'loudness')).toMatchObject({ verdict: 'waived', waiver: w })
    expect(cleared(judged(recipe('master', { start: '10:00:00:00' })))).toBe(false)
  })
  it('the file as written has the last word', () => {
    const written = { loudness: { value: -23, text: '−23.0 LUFS', from: 'file' } }
    const list = judge(northmere.rules, soundReadings(facts, 0, ''), {}, written, [])
    expect(by(list, 'loudness')).toMatchObject({ verdict: 'pass', decidedBy: 'written' })
  })
  it('puts expectations in words', () => {
    expect(expectationText({ measure: 'true-peak', expect: { max: -1 } })).toBe('at most −1 dBTP')
    expect(expectationText({ measure: 'raster', expect: { equals: '1920x1080' } })).toBe('1920×1080')
    expect(expectationText({ measure: 'black', expect: { max: 0 } })).toBe('none')
    const matches = '^[a-z]+$'
    expect(expectationText({ measure: 'file-name', expect: { matches } })).toBe('matches ^[a-z]+$')
    expect(expectationText({ measure: 'file-name', expect: { matches, says: 'small letters' } })).toBe('small letters')
  })
  it('holds every one of several numbers against what is expected, and shows those that would seem to meet it', () => {
    const rule = { ...northmere.rules[0]!, id: 'mixes', measure: 'mixes-loudness', expect: { max: -23 } } as const
    const of = (...integrated: number[]) => {
      const others = integrated.map((v, i) => ({ channels: [2 + i], integrated: v, momentaryMax: v }))
      return judge([rule], soundReadings({ ...facts, others }, 0, ''), {}, null, [])[0]!
    }
    expect([of(-23, -24).verdict, of(-24, -22).verdict, of().verdict]).toEqual(['pass', 'fail', 'pass'])
    expect(of(-24, -22.96).why).toContain('−22.96 LUFS in channel 4; required: at most −23 LUFS')
  })
  it('reads silent channels, phase and content', () => {
    const pairs = [{ ...facts.pairs[0]!, correlation: -0.9 }]
    const r = soundReadings({ ...facts, peaks: [-3, null, -70], pairs }, 0, '')
    expect([r['silent-channel']!.text, r.phase!.text]).toEqual(['channels 2, 3', '−0.90'])
    expect(contentReadings({ black: [{ in: 10, out: 12 }], freeze: [], flashes: [] }, pal, '').black).toMatchObject({
      value: 1,
      text: '2 frames at 10:00:00:10',
    })
    const levels = {
      lowest: -6,
      highest: 107,
      active: null,
      excursions: [
        { in: 3, out: 4, share: 2 },
        { in: 30, out: 50, share: 5 },
      ],
    }
    expect(contentReadings({ black: [], freeze: [], flashes: [], levels }, pal, '').levels).toMatchObject({
      value: 2,
      text: '2 stretches, first: 1 frame at 10:00:00:03',
    })
  })
  it('reads damage in sound by kind, and where the first is', () => {
    const none = { silence: [{ in: 0, out: 50 }], clicks: [], dropouts: [], data: [], phase: [] }
    expect(troubleReadings(none, pal, '')['sound-faults']).toMatchObject({ value: 0, text: 'none' })
    const some = {
      ...none,
      clicks: [
        { in: 40, out: 41 },
        { in: 60, out: 61 },
      ],
      dropouts: [{ in: 26, out: 27 }],
      data: [],
      phase: [{ in: 100, out: 200 }],
    }
    expect(troubleReadings(some, pal, '')['sound-faults']).toMatchObject({
      value: 4,
      text: '2 clicks, 1 dropout, 1 stretch out of phase, first at 10:00:01:01',
    })
    expect(
      by(judge(northmere.rules, {}, troubleReadings(some, pal, 'measured over the region'), null, []), 'damage'),
    ).toMatchObject({ verdict: 'caution', required: 'none' })
  })
})

describe('fixes', () => {
  const fix = (r: Recipe, id: string, sound = facts) => fixFor(by(judged(r, sound), id), r, source)
  it('bring loudness to the target', () =>
    expect(fix(recipe('master'), 'loudness')).toMatchObject({
      overrides: { gain: -8.5 },
      label: 'Gain 0.0 dB → −8.5 dB',
    }))
  it('make the rule pass they are made for', () => {
    for (const [r, id] of [
      [recipe('master'), 'loudness'],
      [recipe('master'), 'start'],
      [recipe('master', { channels: [1, 2] }), 'channels'],
      [recipe('master', { width: 1280, height: 720 }), 'raster'],
      [recipe('master', { gain: 4 }), 'peak'],
    ] as const) {
      const f = fix(r, id)!
      expect(by(judged(withOverrides(r, f.overrides)), id).verdict, id).toBe('pass')
    }
  })
  it('do not exist where the recipe lacks the setting, or nothing is wrong', () => {
    expect(fix(recipe('rewrap'), 'loudness')).toBeNull()
    expect(fix(recipe('master'), 'raster')).toBeNull()
    expect(fix(recipe('rewrap'), 'codec')).toBeNull()
  })
})

describe('specs', () => {
  it('ship valid, with clauses for every rule', () => {
    expect(shippedSpecs.map((s) => s.id)).toEqual(['northmere', 'osprey', 'lantern'])
    for (const s of shippedSpecs) for (const r of s.rules) expect(r.clause).not.toBe('')
  })
  it('are refused with the field that is wrong', () => {
    expect(() => parseSpec({ ...openSpec, format: 'x' })).toThrow(/format/)
    const twice = specSchema.safeParse({ ...openSpec, rules: [northmere.rules[0], northmere.rules[0]] })
    expect(twice.error!.issues[0]!.message).toContain('two rules')
    expect(specSchema.safeParse({ ...openSpec, rules: [{ ...northmere.rules[0], measure: 'nonsense' }] }).success).toBe(
      false,
    )
  })
  it('say what they require of every measure, whatever they ask of it', () => {
    const asked = [{ equals: 'anything' }, { equals: 3 }, { oneOf: ['a', 1, true] }, { min: 1 }, { max: 0 }] as const
    const others = [{ target: 1, tolerance: 2 }, { matches: 'x' }, { includes: ['a'] }] as const
    for (const { name } of measures)
      for (const expectation of [...asked, ...others])
        expect(expectationText({ measure: name, expect: expectation })).toEqual(expect.any(String))
  })
  it('house rules ask of a written file only what it can answer', () => {
    expect(rulesFor(openSpec, 'written', { pictures: false, trial: false }).map((r) => r.measure)).toEqual([
      'file-name',
      'own-sound',
      'intact',
      'trial',
      'channel-order',
    ])
    expect(rulesFor(openSpec, 'before', delivery)).toHaveLength(22)
  })
  it('what a recipient asks of a trial is said, and keeps nothing back', () => {
    const of = (trial: boolean) =>
      judge(
        rulesFor(northmere, 'before', { pictures: true, trial }),
        forecastReadings(output(recipe('viewing')), pal),
        {},
        null,
        [],
      )
    const blocked = (trial: boolean) => of(trial).filter((r) => r.blocks && !r.rule.id.startsWith('house-')).length
    expect([blocked(false) > 5, blocked(true)]).toEqual([true, 0])
    expect(by(of(true), 'codec').verdict).toBe('caution')
    expect(
      of(true)
        .filter((r) => r.rule.id.startsWith('house-'))
        .every((r) => r.rule.severity === 'must'),
    ).toBe(true)
  })
})

describe('a file without pictures, or without sound', () => {
  const rule = (measure: string, expect: Rule['expect']): Rule => ({
    ...{ id: measure, measure, expect, severity: 'must', clause: '1' },
  })
  const rules = [
    rule('frame-rate', { equals: '25/1' }),
    rule('black', { max: 0 }),
    rule('sound-codec', { equals: 'pcm' }),
    rule('loudness', { min: -24, max: -22 }),
  ]
  const whys = (info: MediaInfo) => {
    const readings = fileReadings(info, pal, 'file')
    return judge(rules, {}, {}, readings, []).map((r) => [r.verdict, r.why])
  }
  const wasNot = (label: string) => ['unmeasured', `${label}: could not be measured.`]
  it('says so where a rule asks about them, and passes none of it', () => {
    expect(whys({ ...source, video: [] })).toEqual([
      ['unmeasured', 'Frame rate: cannot be measured, there are no pictures.'],
      ['unmeasured', 'Black: cannot be measured, there are no pictures.'],
      ['pass', 'Sound codec is PCM, as required.'],
      wasNot('Integrated loudness'),
    ])
    expect(whys({ ...source, audio: [] })).toEqual([
      ['pass', 'Frame rate is 25, as required.'],
      wasNot('Black'),
      ['unmeasured', 'Sound codec: cannot be measured, there is no sound.'],
      ['unmeasured', 'Integrated loudness: cannot be measured, there is no sound.'],
    ])
  })
})

describe('a value that is expected', () => {
  const wantedOf = (measure: string, expect: Rule['expect']) => {
    const rule = { id: 'r', measure, severity: 'must', expect, clause: '1' }
    return parseSpec({ ...northmere, rules: [rule] }).rules[0]!.expect
  }
  it.each([
    ['25', '25/1'],
    [25, '25/1'],
    ['29.97', '30000/1001'],
    [23.976, '24000/1001'],
    ['50/2', '25/1'],
    ['variable', 'variable'],
    ['as it is', 'as it is'],
  ])('of a frame rate, %j, is %j', (written, meant) => {
    expect(wantedOf('frame-rate', { equals: written })).toEqual({ equals: meant })
    expect(wantedOf('frame-rate', { oneOf: [written, '50/1'] })).toEqual({ oneOf: [meant, '50/1'] })
  })
  it.each([
    ['timecode-rate', 25, '25/1'],
    ['codec', 'H.264', 'h264'],
    ['codec', 'V210', 'v210'],
    ['codec', 'unheard of', 'unheard of'],
    ['sound-codec', 'PCM', 'pcm'],
    ['container', 'MXF', 'mxf'],
    ['scan', 'interlaced, top field first', 'interlaced-tff'],
    ['raster', '1920×1080', '1920x1080'],
    ['raster', '1920 X 1080', '1920x1080'],
    ['bit-depth', 10, 10],
  ])('of %s, %j, is %j', (measure, written, meant) =>
    expect(wantedOf(measure, { equals: written })).toEqual({ equals: meant }),
  )
  it.each<[string, readonly string[]]>([
    ['frame-rate', ['24000/1001', '25/1', '30000/1001', '60000/1001']],
    ['timecode-rate', ['24000/1001', '25/1', '30000/1001', '60000/1001']],
    ['codec', pictureNames()],
    ['sound-codec', soundNames()],
    ['container', brands().map((b) => b.name)],
    ['scan', scanSchema.options],
    ['raster', ['720x576', '1920x1080']],
    ['wrapping', ['frame', 'clip', 'none']],
    ['index-position', ['front', 'end', 'fragments']],
    ['index-table', ['whole', 'part', 'none']],
    ['header-partition', ['closed-complete', 'open-incomplete', 'none']],
  ])('of %s may be written in the words in which it is shown', (name, values) => {
    const { words, means } = measureOf(name)
    expect(values.map((value) => means!(words!({ equals: value })!))).toEqual(values)
    expect(values.map((value) => means!(value))).toEqual(values)
  })
  it('says the value where it is shown as what is required, and is not that', () => {
    const asked = { id: 'r', measure: 'wrapping', expect: { equals: 'frame by frame' }, severity: 'must', clause: '1' }
    const reading = { value: 'frame', text: 'frame by frame', from: 'file' }
    const [result] = judge([asked as Rule], {}, {}, { wrapping: reading }, [])
    expect(result!.why).toBe('Wrapping is frame by frame (“frame”); required: frame by frame.')
  })
  it('is the same as text and as a number', () => {
    expect(meets(2, { equals: '2' })).toBe(true)
    expect(meets('10', { oneOf: [8, 10] })).toBe(true)
    expect(meets(true, { equals: 'true' })).toBe(true)
    expect([meets(2, { equals: '2.5' }), meets(['1'], { equals: '1' }), meets('', { equals: 0 })]).toEqual([
      false,
      false,
      false,
    ])
  })
})
