import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { PictureSource, SoundSource } from '../../codec/codec'
import { isReduced, type MediaInfo, type Scan, type VideoInfo } from '../../media/media'
import { blackPicture, type Picture } from '../../picture/picture'
import { makeRate } from '../../time/rate'
import { assemblyInfo, makeAssembly, narrowedTo, soundIn, takenBy, trimAssembly, type Assembly } from './assembly'
import { copySource } from './copy'
import { assemblePictures, mixPictures, sourcesIn, untouchedFrames } from './pictures'
import { assemblyProblems } from './problems'
import { assembleSound } from './sound'
import { normalSpeed, sourceFrame, type Timeline, type TimelineEvent } from '../model'

const rate = makeRate(25)
const [width, height] = [4, 2]
const length = 120

/** A source whose picture n is all of luma 16 + n. */
const video: VideoInfo = {
  codec: 'v210',
  profile: null,
  level: null,
  width,
  height,
  rate,
  constantRate: true,
  scan: 'progressive',
  chroma: '4:2:0',
  bitDepth: 8,
  pixelAspect: '1:1',
  colour: null,
  frames: length,
  intra: true,
  webCodec: null,
}
const flat = (luma: number): Picture => {
  const p = blackPicture(width, height, '4:2:0', 8)
  p.planes[0].fill(luma)
  return p
}
const source = (): PictureSource => ({
  frames: length,
  async *read(range) {
    await Promise.resolve()
    for (let frame = range.in; frame < range.out; frame++) {
      if (frame < 0 || frame >= length) throw new Error(`frame ${frame} was asked for`)
      yield { frame, picture: flat(16 + frame) }
    }
  },
})
const info: MediaInfo = {
  container: 'mov',
  indexAt: 'front',
  size: 100,
  durationFrames: length,
  durationSeconds: length / 25,
  timecode: null,
  video: [video],
  audio: [
    { codec: 'pcm', channels: 2, sampleRate: 1000, bitDepth: 24, samples: length * 40, layout: 'L R', webCodec: null },
  ],
  chapters: [],
  bext: null,
  problems: [],
}
const file = { root: 'r', path: 'a.mov' }

const event = (
  track: string,
  from: number,
  to: number,
  first: number,
  more: Partial<TimelineEvent> = {},
): TimelineEvent => ({
  track,
  kind: track.startsWith('A') ? 'audio' : 'video',
  name: '',
  reel: 'a',
  file: null,
  speed: normalSpeed,
  source: { in: first, out: first + to - from, rate },
  record: { in: from, out: to },
  transition: null,
  ...more,
})
function assembly(events: TimelineEvent[], tracks = ['V', 'V2', 'A1', 'A2']): Assembly {
  const timeline: Timeline = {
    name: 't',
    rate,
    dropFrame: false,
    start: 0,
    length: 100,
    tracks: tracks.map((name) => ({ name, kind: name.startsWith('A') ? 'audio' : 'video' })),
    events,
    markers: [],
  }
  return makeAssembly(
    timeline,
    {
      links: events.map((e) => ({
        clip: e.source ? { file, offset: 0 } : null,
        outgoing: e.transition?.outgoing?.source ? { file, offset: 0 } : null,
      })),
    },
    () => info,
  )
}
const pictures = (a: Assembly) => assemblePictures(a, () => ({ info: video, pictures: source() }))
async function lumas(a: Assembly, from = 0, to = 100): Promise<number[]> {
  const out: number[] = []
  for await (const { frame, picture } of pictures(a).read({ in: from, out: to })) {
    expect(frame).toBe(from + out.length)
    out.push(picture.planes[0][0]!)
  }
  return out
}

/** What a frame should show, written another way: from the bottom layer up, one frame at a time. */
function reference(a: Assembly, frame: number): number {
  const { events, tracks } = a.timeline
  const shown = (e: Pick<TimelineEvent, 'source' | 'speed'>, k: number) => {
    if (!e.source) return 16
    const n = sourceFrame(e.source, e.speed, k)
    return n >= 0 && n < length ? 16 + n : 16
  }
  let luma = 16
  tracks
    .filter((t) => t.kind === 'video')
    .forEach((t, level) => {
      const own = events.filter((e) => e.track === t.name)
      const e = own.find((x) => frame >= x.record.in && frame < x.record.out)
      if (!e) return
      const k = frame - e.record.in
      const n = e.transition && k < e.transition.frames ? e.transition.frames : 0
      const clear = !e.source && level > 0
      if (!n) {
        if (!clear) luma = shown(e, k)
        return
      }
      const before = own.find((x) => x.record.out === e.record.in)
      const old = e.transition!.outgoing
        ? shown(e.transition!.outgoing, k)
        : before && (before.source || level === 0)
          ? shown(before, frame - before.record.in)
          : luma
      const fresh = clear ? luma : shown(e, k)
      luma = Math.floor((old * (2 * n - 2 * k - 1) + fresh * (2 * k + 1) + n) / (2 * n))
    })
  return luma
}

/** Any timeline of two layers: events one after the other with gaps, transitions and speeds. */
const anyTrack = (track: string) =>
  fc
    .array(
      fc.record({
        gap: fc.constantFrom(0, 0, 0, 3),
        n: fc.integer({ min: 1, max: 18 }),
        first: fc.integer({ min: -5, max: 118 }),
        speed: fc.constantFrom(
          normalSpeed,
          normalSpeed,
          { num: 2, den: 1 },
          { num: -1, den: 1 },
          { num: 1, den: 2 },
          { num: 0, den: 1 },
          { num: -3, den: 2 },
        ),
        mix: fc.constantFrom(0, 0, 1, 2, 5, 9),
        black: fc.constantFrom(false, false, false, true),
        named: fc.boolean(),
      }),
      { maxLength: 9 },
    )
    .map((list) => {
      let at = 0
      return list
        .map((x): TimelineEvent => {
          at += x.gap
          const from = at
          at += x.n
          const outgoing = x.named
            ? { name: '', reel: 'b', file: null, speed: normalSpeed, source: { in: 60, out: 61, rate } }
            : undefined
          return event(track, from, at, x.first, {
            speed: x.speed,
            ...(x.black ? { source: null } : { source: { in: x.first, out: x.first + 20, rate } }),
            transition: x.mix
              ? { kind: 'dissolve', frames: Math.min(x.mix, x.n), ...(outgoing ? { outgoing } : {}) }
              : null,
          })
        })
        .filter((e) => e.record.out <= 100)
    })

describe('assembled pictures', () => {
  it('show what every layer, transition and speed asks for, at every frame (property)', async () => {
    await fc.assert(
      fc.asyncProperty(anyTrack('V'), anyTrack('V2'), async (lower, upper) => {
        const a = assembly([...lower, ...upper])
        expect(await lumas(a)).toEqual(Array.from({ length: 100 }, (_, n) => reference(a, n)))
      }),
      { numRuns: 150 },
    )
  })
  it('are the same from any frame to any other, cut down to what these need (property)', async () => {
    await fc.assert(
      fc.asyncProperty(
        anyTrack('V'),
        anyTrack('V2'),
        fc.integer({ min: 0, max: 99 }),
        fc.integer({ min: 1, max: 40 }),
        async (lower, upper, from, n) => {
          const a = assembly([...lower, ...upper])
          const to = Math.min(100, from + n)
          expect(await lumas(trimAssembly(a, { in: from, out: to }), from, to)).toEqual(
            (await lumas(a)).slice(from, to),
          )
        },
      ),
      { numRuns: 80 },
    )
  })
  it('are told from a source’s own: those are its very frames, the same cut down to a range (property)', async () => {
    await fc.assert(
      fc.asyncProperty(anyTrack('V'), anyTrack('V2'), fc.integer({ min: 0, max: 60 }), async (lower, upper, from) => {
        const a = assembly([...lower, ...upper])
        const [own, seen] = [untouchedFrames(a, [info]), await lumas(a)]
        const part = untouchedFrames(trimAssembly(a, { in: from, out: from + 40 }), [info])
        let told = 0
        for (let n = 0; n < 100; n++) {
          const f = own(n)
          if (n >= from && n < from + 40) expect(part(n)).toEqual(f)
          if (!f) continue
          told++
          expect([f.source, 16 + f.frame]).toEqual([0, seen[n]])
        }
        // what is neither mixed nor black nor outside the source must be told
        const plain = Array.from({ length: 100 }, (_, n) => n).filter(
          (n) =>
            upper.every((e) => n < e.record.in || n >= e.record.out) &&
            lower.some(
              (e) => n >= e.record.in + (e.transition?.frames ?? 0) && n < e.record.out && e.source && seen[n]! > 16,
            ),
        )
        expect(told).toBeGreaterThanOrEqual(plain.length)
      }),
      { numRuns: 100 },
    )
  })
  it('are not a source’s own in another raster, chroma or depth', () => {
    const a = assembly([event('V', 0, 20, 5)])
    expect(untouchedFrames(a, [info])(3)).toEqual({ source: 0, frame: 8 })
    for (const more of [{ width: 8 }, { height: 4 }, { chroma: '4:2:2' as const }, { bitDepth: 10 }])
      expect(untouchedFrames(a, [{ ...info, video: [{ ...video, ...more }] }])(3)).toBeNull()
    expect(untouchedFrames(a, [null])(3)).toBeNull()
  })
  it('weigh a dissolve by the middle of each frame', async () => {
    expect(
      await lumas(
        assembly([event('V', 0, 10, 0), event('V', 10, 20, 80, { transition: { kind: 'dissolve', frames: 4 } })]),
        8,
        16,
      ),
    ).toEqual([24, 25, 35, 53, 72, 90, 100, 101])
    expect(mixPictures(flat(16), flat(235), 1, 2).planes[0][0]).toBe(126)
  })
  it('are told as media: raster, rate, start and sound', () => {
    const a = assembly([event('V', 0, 50, 0), event('A2', 0, 50, 0)])
    expect(assemblyInfo(a, [info])).toMatchObject({
      durationFrames: 100,
      video: [{ width, height, rate, codec: 'v210', frames: 100 }],
      audio: [{ channels: 2, sampleRate: 1000, samples: 4000 }],
    })
    expect(assemblyInfo(assembly([]), []).audio).toEqual([])
  })
})

describe('assembled sound', () => {
  /** Channel c of sample n is c + n / 10 000. */
  const sound: SoundSource = {
    channels: 2,
    sampleRate: 1000,
    samples: length * 40,
    read: (from, count) =>
      Promise.resolve(
        [0, 1].map((c) =>
          Float32Array.from({ length: count }, (_, i) =>
            from + i >= 0 && from + i < length * 40 ? c + (from + i) / 10_000 : 0,
          ),
        ),
      ),
  }
  const hear = async (a: Assembly, from: number, count: number) =>
    (await assembleSound(a, () => sound)!.read(from, count)).map((c) => [...c].map((v) => Math.round(v * 10_000)))

  it('takes each track from its channel, silent where there is nothing', async () => {
    const a = assembly([event('A1', 0, 2, 10), event('A2', 1, 3, 20)])
    const [one, two] = await hear(a, 0, 160)
    expect(one!.slice(0, 3)).toEqual([400, 401, 402])
    expect([one![79], one![80], two![39], two![40], two![119], two![120]]).toEqual([479, 0, 0, 10_800, 10_879, 0])
  })
  it('applies levels, speeds by the nearest sample, and plays backwards from the end', async () => {
    expect((await hear(assembly([event('A1', 0, 2, 10, { gain: -6.0206 })]), 0, 2))[0]).toEqual(
      [200, 201].map((v) => Math.round(v - 0.5) || v),
    )
    expect((await hear(assembly([event('A1', 0, 2, 10, { speed: { num: 2, den: 1 } })]), 0, 3))[0]).toEqual([
      400, 402, 404,
    ])
    expect((await hear(assembly([event('A1', 0, 2, 10, { speed: { num: 1, den: 2 } })]), 0, 4))[0]).toEqual([
      400, 400, 401, 401,
    ])
    expect((await hear(assembly([event('A1', 0, 2, 10, { speed: { num: -1, den: 1 } })]), 0, 3))[0]).toEqual([
      479, 478, 477,
    ])
    expect((await hear(assembly([event('A1', 0, 2, 10, { speed: { num: 0, den: 1 } })]), 0, 3))[0]).toEqual([0, 0, 0])
  })
  it('crossfades from the sound before, sample by sample, whatever the blocks', async () => {
    const a = assembly([event('A1', 0, 2, 0), event('A1', 2, 4, 50, { transition: { kind: 'dissolve', frames: 1 } })])
    const whole = (await hear(a, 0, 160))[0]!
    expect(whole[79]).toBe(79)
    for (let j = 0; j < 40; j++) {
      const w = (2 * j + 1) / 80
      expect(Math.abs(whole[80 + j]! - ((80 + j) * (1 - w) + (2000 + j) * w))).toBeLessThanOrEqual(1)
    }
    expect(whole[120]).toBe(2040)
    expect([...(await hear(a, 0, 97))[0]!, ...(await hear(a, 97, 63))[0]!]).toEqual(whole)
  })
  it('counts channels round where a source has fewer, which is another essence than silence', async () => {
    const a = assembly([event('A1', 0, 2, 10, { channels: [3] }), event('A2', 0, 2, 10, { channels: [1] })])
    expect(a.links.map((l) => l.clip)).toEqual([
      { source: 0, offset: 0, channels: [1] },
      { source: 0, offset: 0 },
    ])
    const [one, two] = await hear(a, 0, 80)
    expect(one).toEqual(two)
    expect(one![0]).toBe(10_400)
  })
  it('is none without sound events', () => {
    expect(assembleSound(assembly([event('V', 0, 10, 0)]), () => sound)).toBeNull()
  })
  it('brings sources to the sample rate of most of it, whatever the blocks', async () => {
    const events = [event('A1', 0, 20, 0), event('A1', 20, 30, 25)]
    const [own, other] = [file, { root: 'r', path: 'b.mov' }]
    const t = assembly(events).timeline
    const at = (f: typeof file) => ({ clip: { file: f, offset: 0 }, outgoing: null })
    const rates = (f: { path: string }) => ({
      ...info,
      audio: [{ ...info.audio[0]!, sampleRate: f.path === 'b.mov' ? 800 : 1000 }],
    })
    const a = makeAssembly(t, { links: [at(own), at(other)] }, rates)
    expect(a).toMatchObject({ sampleRate: 1000, resampled: [1] })
    expect(makeAssembly(t, { links: [at(own), at(own)] }, rates)).not.toHaveProperty('resampled')
    // 20 Hz: sample n of 800 a second lies at n / 800 s
    const tone: SoundSource = {
      ...sound,
      sampleRate: 800,
      read: (from, count) => {
        const one = Float32Array.from({ length: count }, (_, i) => Math.sin((2 * Math.PI * 20 * (from + i)) / 800))
        return Promise.resolve([one, one])
      },
    }
    const heard = assembleSound(a, (i) => (i === 1 ? tone : sound))!
    const whole = (await heard.read(780, 420))[0]!
    expect(whole.slice(0, 3)).toEqual(Float32Array.from([780, 781, 782], (v) => v / 10_000))
    for (let n = 800; n < 1200; n++)
      expect(whole[n - 780]).toBeCloseTo(Math.sin((2 * Math.PI * 20 * (n - 800 + 1000)) / 1000), 4)
    const parts = [(await heard.read(780, 33))[0]!, (await heard.read(813, 387))[0]!]
    expect(parts.flatMap((p) => [...p])).toEqual([...whole])
  })
})

describe('copying untouched', () => {
  const av = (from: number, to: number, first: number, more: Partial<TimelineEvent> = {}) =>
    ['V', 'A1', 'A2'].map((t, i) => event(t, from, to, first, { ...more, ...(i ? { channels: [i - 1] } : {}) }))
  const why = (events: TimelineEvent[], range = { in: 0, out: 20 }, infos: (MediaInfo | null)[] = [info]) => {
    const r = copySource(assembly(events), range, infos)
    return 'why' in r ? r.why : r.parts.map((p) => p.range)
  }
  it('follows cuts of intra pictures', () => {
    expect(why([...av(0, 12, 30), ...av(12, 40, 60)], { in: 5, out: 20 })).toEqual([
      { in: 35, out: 42 },
      { in: 60, out: 68 },
    ])
  })
  it.each<[string, TimelineEvent[], RegExp]>([
    ['a gap', [...av(0, 8, 0), ...av(10, 20, 0)], /gaps/],
    ['a layer', [...av(0, 20, 0), event('V2', 5, 8, 0)], /layers/],
    ['a transition', [...av(0, 5, 0), ...av(5, 20, 50, { transition: { kind: 'dissolve', frames: 4 } })], /transition/],
    ['speed', av(0, 20, 0, { speed: { num: 2, den: 1 } }), /speed/],
    ['no sound', [event('V', 0, 20, 0)], /timeline none/],
    ['half the sound', av(0, 20, 0).slice(0, 2), /some of the sound/],
    [
      'sound from elsewhere',
      [event('V', 0, 20, 0), event('A1', 0, 20, 3, { channels: [0] }), event('A2', 0, 20, 0, { channels: [1] })],
      /not that of its pictures/,
    ],
    ['too little', av(0, 20, 110), /too short/],
    ['a channel twice', [...av(0, 20, 0), event('A01', 0, 20, 0, { channels: [0] })], /are mixed/],
    ['black', [event('V', 0, 20, 0, { source: null }), ...av(0, 20, 0).slice(1)], /black/],
  ])('says why not: %s', (_, events, reason) => expect(why(events)).toMatch(reason))
  it('says why not: frames that lean on others, other kinds of file', () => {
    const long = { ...info, video: [{ ...video, intra: false }] }
    expect(why([...av(0, 10, 0), ...av(10, 20, 50)], { in: 0, out: 20 }, [long])).toMatch(/lean on others/)
    expect(why(av(0, 20, 0), { in: 0, out: 20 }, [{ ...info, container: 'webm' }])).toMatch(/MP4 or MOV/)
  })
})

describe('problems of a range', () => {
  it('are those of its own sources, and wipes', () => {
    const a = assembly([
      event('V', 0, 20, 0),
      event('V', 20, 40, 0, { transition: { kind: 'wipe', frames: 5, wipe: 1 } }),
    ])
    const bad = {
      key: 'x',
      name: '',
      reel: 'x',
      file: null,
      events: [0],
      state: 'missing' as const,
      linked: null,
      candidates: [],
      lookedFor: '',
      problem: { code: 'link.missing', message: '' },
    }
    expect(assemblyProblems(a.timeline, [bad], { in: 0, out: 10 }, ['video', 'audio']).map((p) => p.code)).toEqual([
      'link.missing',
    ])
    expect(assemblyProblems(a.timeline, [bad], { in: 25, out: 30 }, ['video']).map((p) => p.code)).toEqual([
      'assembly.wipe',
    ])
  })
})

describe('sources of several colours', () => {
  const bt601 = { primaries: 5, transfer: 6, matrix: 6, fullRange: false }
  const bt709 = { primaries: 1, transfer: 1, matrix: 1, fullRange: false }
  const red = (): PictureSource => ({
    frames: length,
    async *read(range) {
      await Promise.resolve()
      for (let frame = range.in; frame < range.out; frame++) {
        const p = blackPicture(width, height, '4:2:0', 8)
        ;[65, 100, 212].forEach((v, i) => p.planes[i]!.fill(v))
        yield { frame, picture: p }
      }
    },
  })
  const timeline: Timeline = {
    ...{ name: 'Mixed', rate, dropFrame: false, start: 0, length: 20, markers: [] },
    tracks: [{ name: 'V', kind: 'video' }],
    events: [event('V', 0, 10, 0, { reel: 'HD' }), event('V', 10, 20, 0, { reel: 'SD' })],
  }
  const of = (second: typeof bt601) => {
    const infos = [bt709, second].map((colour): MediaInfo => ({ ...info, video: [{ ...video, colour }] }))
    const files = ['hd.mov', 'sd.mov'].map((path) => ({ root: 's', path }))
    const links = files.map((file) => ({ clip: { file, offset: 0 }, outgoing: null }))
    const a = makeAssembly(
      timeline,
      { links } as never,
      (f) => infos[files.findIndex((x) => x.path === f.path)] ?? null,
    )
    return { a, infos }
  }
  it('are said to be decoded with less than there is only where one of them is', () => {
    const { a, infos } = of(bt709)
    const shaped = (first: Partial<VideoInfo>, second: Partial<VideoInfo>) =>
      assemblyInfo(
        a,
        infos.map((x, i) => ({ ...x, video: [{ ...x.video[0]!, ...(i ? second : first) }] })),
      ).video[0]!
    const [own, shallow] = [{ webCodec: null, bitDepth: 10, chroma: '4:2:2' }, { webCodec: 'avc1.64001f' }] as const
    expect(isReduced(shaped(own, { ...shallow, bitDepth: 8, chroma: '4:2:0' }))).toBe(false)
    expect(isReduced(shaped(own, { ...shallow, bitDepth: 10, chroma: '4:2:0' }))).toBe(true)
    expect(isReduced(shaped(own, own))).toBe(false)
    // over a stretch that takes from the first alone nothing of the second is said
    const [first, second] = [
      { ...video, ...own, codec: 'v210' },
      { ...video, codec: 'h264', webCodec: 'avc1.6e0028', bitDepth: 10, alpha: true, untold: ['scan'] },
    ] as VideoInfo[]
    const both = [first!, second!].map((v): MediaInfo => ({ ...info, video: [v] }))
    const whole = assemblyInfo(a, both)
    expect(whole.video[0]).toMatchObject({
      codecs: ['v210', 'h264'],
      reduced: true,
      alpha: true,
      untold: ['scan'],
    })
    const { codec, codecs, alpha, untold, reduced } = narrowedTo(whole, both, takenBy(a, [0]), []).video[0]!
    expect([codec, codecs, alpha, untold, reduced]).toEqual(['v210', undefined, undefined, undefined, false])
  })
  it('are not those of a source that gives its sound alone, nor the other way round', () => {
    const files = ['a', 'b'].map((path) => ({ root: 's', path }))
    const links = files.map((file) => ({ clip: { file, offset: 0 }, outgoing: null }))
    const deep = { ...video, codec: 'v210', bitDepth: 10, intra: true, webCodec: null }
    const seen: MediaInfo = { ...info, video: [deep], audio: [{ ...info.audio[0]!, codec: 'ac-3', bitDepth: 16 }] }
    const shallow = {
      ...video,
      codec: 'h264',
      bitDepth: 8,
      intra: false,
      alpha: true as const,
      webCodec: 'avc1.64001f',
    }
    const heard: MediaInfo = { ...info, video: [shallow], audio: [{ ...info.audio[0]!, codec: 'pcm', bitDepth: 24 }] }
    const infos = [seen, heard]
    const events = [event('V', 0, 20, 0, { reel: 'A' }), event('A1', 0, 20, 0, { reel: 'B' })]
    const tracks = [timeline.tracks[0]!, { name: 'A1', kind: 'audio' as const }]
    const t: Timeline = { ...timeline, tracks, events }
    const a = makeAssembly(t, { links } as never, (f) => infos[f.path === 'a' ? 0 : 1]!)
    const whole = assemblyInfo(a, infos)
    const taken = sourcesIn(a, { in: 4, out: 9 })
    for (const said of [whole, narrowedTo(whole, infos, taken, soundIn(a, infos, taken.events))]) {
      expect(said.video[0]).toMatchObject({ codec: 'v210', intra: true, reduced: false })
      expect([said.video[0]!.codecs, said.video[0]!.alpha]).toEqual([undefined, undefined])
      expect(said.audio[0]).toMatchObject({ codec: 'pcm', bitDepth: 24 })
      expect(said.audio[0]!.codecs).toBeUndefined()
    }
  })
  it('are brought to that of most of it, and said to be of it', async () => {
    const { a, infos } = of(bt601)
    expect(assemblyInfo(a, infos)).toMatchObject({ problems: [], video: [{ colour: bt709 }] })
    const pictures = assemblePictures(a, (i) => ({ info: infos[i]!.video[0]!, pictures: red() }))
    const seen: (number | undefined)[][] = []
    for await (const { picture } of pictures.read({ in: 9, out: 11 })) seen.push(picture.planes.map((p) => p[0]))
    // the first is as it was; the other has the same red by another matrix
    expect(seen[0]).toEqual([65, 100, 212])
    expect(Math.abs(seen[1]![0]! - 51)).toBeLessThanOrEqual(3)
    expect(Math.abs(seen[1]![1]! - 109)).toBeLessThanOrEqual(3)
    const known = untouchedFrames(a, infos)
    expect([known(9)?.frame, known(10)]).toEqual([9, null])
  })
  it.each([
    ['of high dynamic range', { primaries: 9, transfer: 16, matrix: 9, fullRange: false }],
    ['of primaries that are not known here', { primaries: 12, transfer: 1, matrix: 1, fullRange: false }],
  ])('are said to be several where one of them is %s', (_, colour) => {
    const { a, infos } = of(colour)
    expect(a.raster.colour).toBeUndefined()
    expect(assemblyInfo(a, infos).problems).toMatchObject([{ code: 'assembly.colour' }])
  })
})

describe('sources with fields and without', () => {
  const timeline: Timeline = {
    ...{ name: 'Mixed', rate, dropFrame: false, start: 0, length: 20, markers: [] },
    tracks: [{ name: 'V', kind: 'video' }],
    events: [event('V', 0, 10, 0, { reel: 'A' }), event('V', 10, 20, 0, { reel: 'B' })],
  }
  const of = (...scans: [Scan, Scan]) => {
    const infos = scans.map((scan): MediaInfo => ({ ...info, video: [{ ...video, height: 8, scan }] }))
    const links = ['a', 'b'].map((path) => ({ clip: { file: { root: 's', path }, offset: 0 }, outgoing: null }))
    const a = makeAssembly(timeline, { links } as never, (f) => infos[f.path === 'a' ? 0 : 1]!)
    return { a, infos, said: assemblyInfo(a, infos) }
  }
  /** The upper field is dark, the lower one bright. */
  const combed = (): PictureSource => ({
    frames: length,
    async *read(range) {
      await Promise.resolve()
      for (let frame = range.in; frame < range.out; frame++) {
        const p = blackPicture(width, 8, '4:2:0', 8)
        p.planes[0].forEach((_, i) => (p.planes[0][i] = Math.floor(i / width) % 2 ? 200 : 50))
        yield { frame, picture: p }
      }
    },
  })
  const line1 = async ({ a, infos }: ReturnType<typeof of>, frame: number) => {
    const pictures = assemblePictures(a, (i) => ({ info: infos[i]!.video[0]!, pictures: combed() }))
    for await (const { picture } of pictures.read({ in: frame, out: frame + 1 })) return picture.planes[0][width]
    return null
  }

  it('are joined in a timeline without, and are no longer the source’s own pictures', async () => {
    const mixed = of('progressive', 'interlaced-tff')
    expect(mixed.said).toMatchObject({ problems: [], video: [{ scan: 'progressive' }] })
    expect([await line1(mixed, 3), await line1(mixed, 12)]).toEqual([200, 50])
    const known = untouchedFrames(mixed.a, mixed.infos)
    expect([known(9)?.frame, known(10)]).toEqual([9, null])
  })
  it('stay apart in a timeline with fields, of which one order is said', async () => {
    const mixed = of('interlaced-tff', 'progressive')
    expect(mixed.said).toMatchObject({ problems: [], video: [{ scan: 'interlaced-tff' }] })
    expect([await line1(mixed, 3), await line1(mixed, 12)]).toEqual([200, 200])
    expect(of('interlaced-tff', 'interlaced').said.problems).toMatchObject([{ code: 'assembly.field-order' }])
    expect(of('interlaced-tff', 'interlaced-tff').a.raster.scan).toBeUndefined()
  })
  it('of the other order lie a line lower', async () => {
    const mixed = of('interlaced-tff', 'interlaced-bff')
    expect(mixed.said).toMatchObject({ problems: [], video: [{ scan: 'interlaced-tff' }] })
    expect([await line1(mixed, 3), await line1(mixed, 12)]).toEqual([200, 50])
    // lines move by one in 4:2:2 alone: in 4:2:0 chroma would move by two
    expect([mixed.a.raster.chroma, untouchedFrames(mixed.a, mixed.infos)(10)]).toEqual(['4:2:2', null])
  })
})

describe('sources whose pixels are of other shapes', () => {
  const hd = { width: 32, height: 18, pixelAspect: '1:1' }
  const wide = { width: 20, height: 16, pixelAspect: '64:45' }
  const narrow = { ...wide, pixelAspect: '16:15' }
  const timeline: Timeline = {
    ...{ name: 'Archive', rate, dropFrame: false, start: 0, length: 20, markers: [] },
    tracks: [{ name: 'V', kind: 'video' }],
    events: [event('V', 0, 12, 0, { reel: 'A' }), event('V', 12, 20, 0, { reel: 'B' })],
  }
  /** A timeline most of which is of one shape, with a source of another: white from its first sample to its last. */
  const of = (most: typeof hd, other: typeof hd) => {
    const infos = [most, other].map((v): MediaInfo => ({ ...info, video: [{ ...video, ...v }] }))
    const links = ['a', 'b'].map((path) => ({ clip: { file: { root: 's', path }, offset: 0 }, outgoing: null }))
    const a = makeAssembly(timeline, { links } as never, (f) => infos[f.path === 'a' ? 0 : 1]!)
    return { a, infos }
  }
  /** White columns of the middle line of a frame, and white lines of its middle column. */
  const white = async ({ a, infos }: ReturnType<typeof of>, frame: number) => {
    const pictures = assemblePictures(a, (i) => {
      const v = infos[i]!.video[0]!
      const shown = blackPicture(v.width, v.height, '4:2:0', 8)
      shown.planes[0].fill(235)
      async function* read(range: { in: number; out: number }) {
        await Promise.resolve()
        for (let n = range.in; n < range.out; n++) yield { frame: n, picture: shown }
      }
      return { info: v, pictures: { frames: length, read } }
    })
    for await (const { picture } of pictures.read({ in: frame, out: frame + 1 })) {
      const [luma] = picture.planes
      const at = (x: number, y: number) => luma[y * picture.width + x]! > 125
      const count = (n: number, is: (i: number) => boolean) =>
        Array.from({ length: n }, (_, i) => is(i)).filter(Boolean).length
      return [
        count(picture.width, (x) => at(x, picture.height >> 1)),
        count(picture.height, (y) => at(picture.width >> 1, y)),
      ]
    }
    return null
  }

  it('are shown in their own shape: in a raster of other pixels, and in the same', async () => {
    for (const [most, other, columns, lines] of [
      [hd, wide, 32, 18],
      [hd, narrow, 24, 18],
      [wide, hd, 20, 16],
      [narrow, hd, 20, 12],
      [wide, narrow, 16, 16],
      [narrow, wide, 20, 12],
    ] as const) {
      const both = of(most, other)
      expect(await white(both, 3)).toEqual([most.width, most.height])
      expect(await white(both, 15)).toEqual([columns, lines])
      expect(untouchedFrames(both.a, both.infos)(15)).toBeNull()
    }
  })
  it('are of one shape where only the spelling differs', () => {
    const both = of(narrow, { ...narrow, pixelAspect: '59:54' })
    expect(both.a).not.toHaveProperty('wider')
    expect(untouchedFrames(both.a, both.infos)(15)).toEqual({ source: 1, frame: 3 })
  })
  it('cannot be copied untouched, which is said', () => {
    const copied = (most: typeof hd, other: typeof hd) => {
      const { a, infos } = of(most, other)
      const found = copySource(
        a,
        { in: 13, out: 18 },
        infos.map((x) => ({ ...x, audio: [] })),
      )
      return 'why' in found ? found.why : null
    }
    expect(copied(wide, narrow)).toBe('its source has another raster')
    expect(copied(wide, wide)).toBeNull()
  })
})

it.each([
  ['all of its sources', ['L C R', 'L C R'], 'L C R'],
  ['not all alike', ['L C R', 'L R C'], null],
  ['one of them nothing', ['L C R', null], null],
])('channels of a list are what is said of them by %s', (_, layouts, layout) => {
  const sources = layouts.map((said): MediaInfo => ({
    ...info,
    audio: [{ ...info.audio[0]!, channels: 3, layout: said }],
  }))
  const events = layouts.map((_said, i) => event('A', i * 20, i * 20 + 20, 0))
  const timeline: Timeline = {
    ...{ name: 't', rate, dropFrame: false, start: 0, length: 40, markers: [] },
    ...{ tracks: [{ name: 'A', kind: 'audio' }], events },
  }
  const links = layouts.map((_said, i) => ({
    clip: { file: { root: 'r', path: String(i) }, offset: 0 },
    outgoing: null,
  }))
  const infos = (f: { path: string }) => sources[Number(f.path)]!
  const a = makeAssembly(timeline, { links } as never, infos)
  expect(a.channels).toBe(3)
  expect(assemblyInfo(a, sources).audio[0]!.layout).toBe(layout)
})

it.each<[string, number, (string | null)[], number[], string | null]>([
  ['pairs that nothing names', 2, [null, null], [2, 2], 'L R L R'],
  ['a surround and its stereo', 6, ['L R C LFE Ls Rs', null], [6, 2], 'L R C LFE Ls Rs L R'],
  ['one that is mono', 2, [null, 'C'], [2, 1], 'L R ?'],
  ['eight that nothing names, and a pair', 8, [null, 'L R'], [8, 2], '? ? ? ? ? ? ? ? L R'],
])('tracks side by side carry all channels of theirs: %s', (_, first, layouts, widths, layout) => {
  const sources = layouts.map((said, i): MediaInfo => ({
    ...info,
    audio: [{ ...info.audio[0]!, channels: i === 0 ? first : (said?.split(' ').length ?? 2), layout: said }],
  }))
  const timeline: Timeline = {
    ...{ name: 't', rate, dropFrame: false, start: 0, length: 40, markers: [], soundTracks: 'beside' },
    tracks: [
      { name: 'M', kind: 'audio' },
      { name: 'V', kind: 'video' },
      { name: 'E', kind: 'audio' },
    ],
    events: [event('M', 0, 40, 0, { kind: 'audio' }), event('E', 10, 20, 0, { kind: 'audio' })],
  }
  const links = layouts.map((_said, i) => ({ clip: { file: { ...file, path: `${i}` }, offset: 0 }, outgoing: null }))
  const a = makeAssembly(timeline, { links } as never, (f) => sources[Number(f.path)]!)
  expect([a.timeline.trackWidths, a.channels]).toEqual([widths, widths[0]! + widths[1]!])
  expect(assemblyInfo(a, sources).audio[0]!.layout).toBe(layout)
})
