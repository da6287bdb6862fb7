import { describe, expect, it } from 'vitest'
import type { AudioInfo, MediaInfo } from '../../media/media'
import { formatTimecode } from '../../time/timecode'
import { makeRate, type Rate } from '../../time/rate'
import type { FoundCut } from '../../analysis/cuts'
import { makeAssembly } from '../assembly/assembly'
import { assemblyProblems } from '../assembly/problems'
import { compareVersions } from '../versions'
import { compareCuts, shotsWithFound } from '../comparecuts'
import { linkTimeline } from './link'
import { mediaFrame } from './place'
import { isCaution, noChoices, problemsOf, troublesIn, type LinkChoices } from './source'
import { normalSpeed, type Timeline, type TimelineEvent } from '../model'

const pal = makeRate(25)
const event = (
  from: number,
  to: number,
  reel: string,
  first: number,
  more: Partial<TimelineEvent> = {},
): TimelineEvent => ({
  track: 'V',
  kind: 'video',
  name: '',
  reel,
  file: null,
  source: { in: first, out: first + to - from, rate: pal },
  speed: normalSpeed,
  record: { in: from, out: to },
  transition: null,
  ...more,
})
const timeline = (events: TimelineEvent[]): Timeline => ({
  name: 't',
  rate: pal,
  dropFrame: false,
  start: 90000,
  length: Math.max(...events.map((e) => e.record.out)),
  tracks: [{ name: 'V', kind: 'video' }],
  events,
  markers: [],
})
const media = (start: number | null, frames: number, rate: Rate = pal, width = 1920): MediaInfo => ({
  container: 'mov',
  indexAt: 'front',
  size: 1,
  durationFrames: frames,
  durationSeconds: 1,
  timecode:
    start === null
      ? null
      : { start: formatTimecode(start, { rate, dropFrame: false }), startFrames: start, rate, dropFrame: false },
  audio: [],
  chapters: [],
  bext: null,
  problems: [],
  video: [
    {
      codec: 'v210',
      profile: null,
      level: null,
      width,
      height: 1080,
      rate,
      constantRate: true,
      scan: 'progressive',
      chroma: '4:2:2',
      bitDepth: 10,
      pixelAspect: '1:1',
      colour: null,
      frames,
      intra: true,
      webCodec: null,
    },
  ],
})
const link = (t: Timeline, files: Record<string, MediaInfo | null>, choices: LinkChoices = noChoices) =>
  linkTimeline(
    t,
    Object.keys(files).map((path) => ({ root: 'r', path })),
    (f) => Promise.resolve(files[f.path] ?? null),
    choices,
    't.edl',
  )

describe('linking', () => {
  it('matches reels, and several files of one reel by timecode', async () => {
    const l = await link(timeline([event(0, 10, 'A001', 5000), event(10, 20, 'A001', 9000)]), {
      'a/A001_C001.mov': media(4900, 500),
      'a/A001_C002.mov': media(8900, 500),
      'B001.mov': media(4900, 500),
    })
    expect(l.links.map((x) => [x.clip!.file.path, x.clip!.offset])).toEqual([
      ['a/A001_C001.mov', 4900],
      ['a/A001_C002.mov', 8900],
    ])
    expect(l.sources.map((s) => [s.state, s.candidates.length])).toEqual([['linked', 2]])
  })
  it('prefers the file a list names over the reel, with its folders', async () => {
    const l = await link(timeline([event(0, 10, 'X', 0, { file: '/Volumes/Cards/day2/fog.mov' })]), {
      'day1/fog.mov': media(0, 100),
      'Cards/day2/fog.mov': media(0, 100),
      'X.mov': media(0, 100),
    })
    expect(l.sources[0]).toMatchObject({
      state: 'ambiguous',
      candidates: [{ path: 'Cards/day2/fog.mov' }, { path: 'day1/fog.mov' }, { path: 'X.mov' }],
    })
    const exact = await link(timeline([event(0, 10, 'X', 0, { file: 'day2/fog.mov' })]), {
      'day1/fog.mov': media(0, 100),
      'Cards/day2/fog.mov': media(0, 100),
    })
    expect(exact.sources[0]).toMatchObject({ state: 'linked', linked: { path: 'Cards/day2/fog.mov' } })
  })
  it('takes the very file that is named, though it is short, before a longer one of the same stem', async () => {
    const files = { 'a/bell.mov': media(0, 20), 'b/bell.mp4': media(0, 400) }
    const { sources } = await link(timeline([event(0, 25, 'X', 0, { file: 'bell.mov' })]), files)
    expect(sources[0]).toMatchObject({ state: 'short', linked: { path: 'a/bell.mov' } })
    const named = await link(timeline([event(0, 25, '', 0, { name: 'bell.mov' })]), files)
    expect(named.sources[0]).toMatchObject({ state: 'short', linked: { path: 'a/bell.mov' } })
    const stem = await link(timeline([event(0, 25, '', 0, { name: 'bell' })]), files)
    expect(stem.sources[0]).toMatchObject({ state: 'linked', linked: { path: 'b/bell.mp4' } })
  })
  it('counts from the first frame where a file has no timecode or the list does not use it', async () => {
    const l = await link(timeline([event(0, 10, 'A', 20), event(10, 20, 'B', 20)]), {
      'A.mov': media(null, 100),
      'B.mov': media(90000, 100),
    })
    expect(l.links.map((x) => x.clip!.offset)).toEqual([0, 0])
  })
  it('finds frames behind midnight in a file that began before it', async () => {
    const day = 24 * 3600 * 25
    const files = { 'A001_C001.mov': media(day - 50, 4000), 'A001_C002.mov': media(1000, 100) }
    const l = await link(timeline([event(0, 10, 'A001', day - 30), event(10, 20, 'A001', 3000)]), files)
    expect(l.sources[0]).toMatchObject({ state: 'linked', linked: { path: 'A001_C001.mov' } })
    const first = l.links.map((x, i) => mediaFrame([day - 30, 3000][i]!, x.clip!, pal, pal))
    expect(first).toEqual([20, 3050])
  })
  describe('in a file whose timecode jumps', () => {
    /** Frames 0 … 39 count from 1000, 40 … 99 from 5000 (or from where it is said). */
    const jumping = (count = 5000, rate = pal): MediaInfo => {
      const info = media(1000, 100, rate)
      return { ...info, timecode: { ...info.timecode!, jumps: [{ at: 40, count }] } }
    }
    it('finds frames where the file counts them, before and behind the jump', async () => {
      const l = await link(timeline([event(0, 10, 'A', 1020), event(10, 30, 'A', 5005)]), { 'A.mov': jumping() })
      const first = l.links.map((x, i) => mediaFrame([1020, 5005][i]!, x.clip!, pal, pal))
      expect(first).toEqual([20, 45])
      expect(l.sources[0]).toMatchObject({ state: 'linked', problem: null })
    })
    it('says how much of a shot is not in it', async () => {
      const l = await link(timeline([event(0, 20, 'A', 1030)]), { 'A.mov': jumping() })
      expect(l.sources[0]).toMatchObject({ state: 'short', problem: { message: expect.stringContaining('10 frames') } })
    })
    it('says where it has what a shot takes twice, and takes the first', async () => {
      const l = await link(timeline([event(0, 10, 'A', 1020)]), { 'A.mov': jumping(1000) })
      expect(l.links[0]!.clip!.offset).toBe(1000)
      expect(l.sources[0]).toMatchObject({ state: 'twice', problem: { code: 'link.twice' } })
    })
    it('offers it for frames behind the jump, also to a list at another rate', async () => {
      const lost = await link(timeline([event(0, 10, 'LOST', 5010)]), { 'elsewhere.mov': jumping() })
      expect(lost.sources[0]).toMatchObject({ state: 'missing', candidates: [{ path: 'elsewhere.mov' }] })
      // twice as fast: 02:00:00:00 at 50 a second is the file's frame 40, its 80th half
      const fast = await link(timeline([event(0, 10, 'A', 180_010)]), { 'A.mov': jumping(360_000, makeRate(50)) })
      expect(mediaFrame(180_010, fast.links[0]!.clip!, pal, makeRate(50))).toBe(60)
    })
  })
  it('names what is missing, where, and what was looked for; offers what the timecode speaks for', async () => {
    const l = await link(timeline([event(0, 10, 'A', 20), event(10, 20, 'LOST', 5000, { name: 'Fog Bell' })]), {
      'A.mov': media(0, 100),
      'elsewhere.mov': media(4990, 100),
    })
    expect(l.sources[1]).toMatchObject({
      state: 'missing',
      linked: null,
      lookedFor: 'reel “LOST”, the name “Fog Bell”',
      candidates: [{ path: 'elsewhere.mov' }],
      problem: { code: 'link.missing', where: 't.edl, 01:00:00:10' },
    })
  })
  it('says short, other rate, other raster', async () => {
    const l = await link(
      timeline([event(0, 50, 'A', 0), event(50, 60, 'B', 95), event(60, 70, 'C', 0), event(70, 80, 'D', 0)]),
      {
        'A.mov': media(null, 100),
        'B.mov': media(null, 100),
        'C.mov': media(null, 100, makeRate(24)),
        'D.mov': media(null, 100, pal, 1280),
      },
    )
    expect(l.sources.map((s) => [s.reel, s.state, s.problem?.code ?? null])).toEqual([
      ['A', 'linked', null],
      ['B', 'short', 'link.short'],
      ['C', 'rate', 'link.rate'],
      ['D', 'raster', 'link.raster'],
    ])
    expect(l.sources[1]!.problem!.message).toContain('5 frames')
  })
  it('says what is wrong with each file of a reel, and which events take from it', async () => {
    const files = {
      'A001_C1.mov': media(4900, 100),
      'A001_C2.mov': media(8900, 100, pal, 1280),
      'B.mov': media(0, 100),
    }
    const t = timeline([
      event(0, 10, 'A001', 4905),
      event(10, 20, 'A001', 8905),
      event(20, 30, 'B', 0),
      event(30, 40, 'A001', 8995),
    ])
    const { sources } = await link(t, files)
    expect(sources.map((s) => s.state)).toEqual(['short', 'linked'])
    expect(troublesIn(sources[0]!).map((x) => [x.problem.code, x.problem.message.slice(0, 13), x.events])).toEqual([
      ['link.short', '“A001_C2.mov”', [3]],
      ['link.raster', '“A001_C2.mov”', [1, 3]],
    ])
    expect(assemblyProblems(t, sources, { in: 0, out: 10 }, ['video'])).toEqual([])
    expect(assemblyProblems(t, sources, { in: 5, out: 15 }, ['video']).map((p) => p.code)).toEqual(['link.raster'])
    // a file of its sound alone is not kept back by pictures
    expect(assemblyProblems(t, sources, { in: 5, out: 15 }, ['audio'])).toEqual([])
  })
  it('takes for the raster of a timeline that of most of it, though another file is longer', async () => {
    const cards = Object.fromEntries(['A', 'B', 'C'].map((c) => [`${c}.mov`, media(0, 100)]))
    const files: Record<string, MediaInfo> = { ...cards, 'D.mov': media(0, 100, pal, 1280) }
    const t = timeline([...'ABC'].map((c, i) => event(i * 20, i * 20 + 20, c, 0)).concat(event(60, 90, 'D', 0)))
    const linking = await link(t, files)
    expect(linking.sources.map((s) => s.state)).toEqual(['linked', 'linked', 'linked', 'raster'])
    expect(makeAssembly(t, linking, (f) => files[f.path]!).raster.width).toBe(1920)
  })
  it('says that pixels are of another shape, in a raster of as many', async () => {
    const sd = (pixelAspect: string): MediaInfo => {
      const { video, ...rest } = media(0, 100, pal, 720)
      return { ...rest, video: video.map((v) => ({ ...v, height: 576, pixelAspect })) }
    }
    const told = async (other: string) => {
      const t = timeline([event(0, 60, 'A', 0), event(60, 90, 'B', 0)])
      const { sources } = await link(t, { 'A.mov': sd('64:45'), 'B.mov': sd(other) })
      return sources.map((s) => s.problem?.message)
    }
    expect(await told('16:15')).toEqual([
      undefined,
      '“B.mov” is 720×576 of 16:15 pixels, the timeline 720×576 of 64:45 pixels; it is fitted with bars where needed.',
    ])
    expect(await told('118:81')).toEqual([undefined, undefined])
  })
  describe('of sound', () => {
    const heard = (channels: number, samples = 400 * 1920): MediaInfo => ({
      ...media(null, 400),
      audio: [{ codec: 'pcm', channels, sampleRate: 48_000, bitDepth: 24, samples, layout: null, webCodec: null }],
    })
    const on = (track: string, from: number, to: number, channels?: number[]): TimelineEvent => ({
      ...event(from, to, '', from, { name: 'Band.mov' }),
      ...{ track, kind: 'audio', ...(channels ? { channels } : {}) },
    })
    const told = async (events: TimelineEvent[], info: MediaInfo) => {
      const tracks = ['A1', 'A2', 'A3', 'A4'].map((name) => ({ name, kind: 'audio' as const }))
      const { sources } = await link({ ...timeline(events), tracks }, { 'Band.mov': info })
      return sources.flatMap(problemsOf).map((p) => `${p.code}: ${p.message}`)
    }
    it('says channels that a file does not have, unless tracks side by side take all of them', async () => {
      expect(await told([on('A1', 0, 50), on('A2', 0, 50)], heard(2))).toEqual([])
      expect(await told([on('A3', 0, 50), on('A4', 0, 50)], heard(2))).toEqual([])
      expect(await told([on('A3', 0, 50, [2]), on('A4', 0, 50, [3])], heard(2))).toEqual([])
      expect(await told([on('A2', 0, 50, [1])], heard(1))).toEqual([])
      const takes = 'link.channels: “Band.mov” has 2 sound channels, the timeline takes others of it: heard is channel '
      expect(await told([on('A3', 0, 50)], heard(2))).toEqual([`${takes}1 in place of 3.`])
      const apart = [on('A3', 0, 50), on('A4', 50, 90)]
      expect(await told(apart, heard(2))).toEqual([`${takes}1 in place of 3, 2 in place of 4.`])
      expect(await told([on('A1', 0, 50, [4])], heard(2))).toEqual([`${takes}1 in place of 5.`])
    })
    it('says it of the events alone that take what is not there', async () => {
      const tracks = ['A1', 'A2', 'A3'].map((name) => ({ name, kind: 'audio' as const }))
      const events = [on('A1', 0, 50), on('A2', 0, 50), on('A3', 50, 90), on('A1', 90, 99)]
      const { sources } = await link({ ...timeline(events), tracks }, { 'Band.mov': heard(2) })
      expect(troublesIn(sources[0]!).map((x) => [x.state, x.events])).toEqual([
        ['channels', [2]],
        ['some-channels', [3]],
      ])
    })
    it('says where a list that names no channels takes some of them, for somebody to look at', async () => {
      const says = (which: string) => [
        `link.some-channels: “Band.mov” has 2 sound channels, of which only ${which} is heard: ` +
          'each track of this list takes one.',
      ]
      expect(await told([on('A1', 0, 50)], heard(2))).toEqual(says('1'))
      expect(await told([on('A1', 0, 50), on('A2', 10, 50)], heard(2))).toEqual(says('1'))
      expect(await told([on('A1', 0, 50, [0])], heard(2))).toEqual([])
      expect(isCaution('some-channels')).toBe(true)
    })
    it('says where what is taken of it is read by nobody, by its kind or its rate', async () => {
      const [pcm] = heard(1).audio
      const more = (x: Partial<AudioInfo>) => ({ ...heard(2), audio: [...heard(2).audio, { ...pcm!, ...x }] })
      const says = (why: string) => [`link.unheard: Sound that is taken from “Band.mov” is not read. ${why}`]
      expect(await told([on('A1', 0, 50, [0])], more({ codec: 'ac-3' }))).toEqual([])
      const unknown = 'Sound of kind “ac-3” cannot be decoded here.'
      expect(await told([on('A1', 0, 50, [2])], more({ codec: 'ac-3' }))).toEqual(says(unknown))
      const slow = 'Channel 3 runs at 44.1 kHz, others at 48 kHz.'
      expect(await told([on('A1', 0, 50, [0]), on('A2', 0, 50, [2])], more({ sampleRate: 44_100 }))).toEqual(says(slow))
    })
    it('says that there is none, and what is wrong besides', async () => {
      const mute = { ...media(null, 400, makeRate(24)), audio: [] }
      const { sources } = await link(
        timeline([event(0, 50, 'Band', 0), { ...on('A1', 0, 50), reel: 'Band', name: '' }]),
        {
          'Band.mov': mute,
        },
      )
      expect(sources.map((s) => [s.state, problemsOf(s).map((p) => p.code)])).toEqual([
        ['rate', ['link.rate', 'link.channels']],
      ])
      expect(sources[0]!.troubles![1]!.problem.message).toBe(
        '“Band.mov” has no sound, which the timeline takes from it; it is silent there.',
      )
    })
    it('says that it ends before its pictures', async () => {
      expect(await told([on('A1', 0, 50)], heard(1, 49 * 1920 + 1))).toEqual([])
      expect(await told([on('A1', 0, 50)], heard(1, 49 * 1920))).toEqual([
        'link.short: “Band.mov” lacks up to 1 frame of what the timeline takes from it.',
      ])
      // which does not make another file the right one
      const files = { 'new/Band.mov': heard(1, 49 * 1920), 'old/Band.mov': heard(1) }
      const preferred = { files: {}, folders: [{ root: 'r', path: 'new' }] }
      const { sources } = await link(timeline([on('A1', 0, 50)]), files, preferred)
      expect(sources.map((s) => [s.state, s.linked!.path])).toEqual([['short', 'new/Band.mov']])
    })
  })
  it('takes a person’s word, and one folder serves all alike', async () => {
    const t = timeline([event(0, 10, 'A', 0), event(10, 20, 'B', 0)])
    const files = {
      'old/A.mov': media(0, 100),
      'old/B.mov': media(0, 100),
      'new/A.mov': media(0, 100),
      'new/B.mov': media(0, 100),
    }
    expect((await link(t, files)).sources.map((s) => s.state)).toEqual(['ambiguous', 'ambiguous'])
    const byFolder = await link(t, files, { files: {}, folders: [{ root: 'r', path: 'new' }] })
    expect(byFolder.sources.map((s) => [s.state, s.linked!.path])).toEqual([
      ['linked', 'new/A.mov'],
      ['linked', 'new/B.mov'],
    ])
    const byFile = await link(t, files, { files: { 'reel A': { root: 'r', path: 'old/A.mov' } }, folders: [] })
    expect(byFile.sources.map((s) => [s.state, s.linked!.path])).toEqual([
      ['linked', 'old/A.mov'],
      ['ambiguous', 'new/B.mov'],
    ])
  })
  it('finds the frame that is due where rates differ', () => {
    expect([0, 1, 24, 25].map((n) => mediaFrame(n + 100, { offset: 100 }, pal, makeRate(24)))).toEqual([0, 0, 23, 24])
  })
})

describe('versions compared', () => {
  it('tells shots kept, moved, trimmed, new and gone', () => {
    const older = timeline([
      event(0, 10, 'A', 100),
      event(10, 20, 'B', 100),
      event(20, 30, 'C', 100),
      event(30, 40, 'D', 100),
    ])
    const newer = timeline([
      event(0, 10, 'A', 100),
      event(10, 18, 'C', 102),
      event(18, 28, 'B', 100),
      event(28, 38, 'E', 0),
    ])
    expect(compareVersions(older, newer).map((c) => [c.name, c.kind, c.was?.in ?? null])).toEqual([
      ['A', 'kept', 0],
      ['C', 'trimmed', 20],
      ['B', 'moved', 10],
      ['E', 'new', null],
      ['D', 'gone', 30],
    ])
  })
})

describe('cuts given and found', () => {
  const t = timeline([
    event(0, 10, 'A', 0),
    event(10, 30, 'B', 0),
    event(30, 45, 'C', 0),
    event(45, 60, 'D', 0),
    event(60, 80, 'E', 0),
  ])
  const cut = (at: number): FoundCut => ({ at, kind: 'cut', from: at, to: at })
  it('agree, and those nobody gave are told apart', () => {
    expect(compareCuts(t, [10, 30, 38, 45, 60].map(cut))).toEqual({ agree: 4, given: 4, extra: [38], shift: null })
    expect(compareCuts(t, [cut(10), { at: 32, kind: 'dissolve', from: 29, to: 36 }, cut(45), cut(60)])).toMatchObject({
      agree: 4,
      shift: null,
    })
  })
  it('say that a list is shifted, and by how much', () => {
    expect(compareCuts(t, [12, 32, 47, 62].map(cut)).shift).toBe(2)
    expect(compareCuts(t, [9, 29, 44, 70].map(cut)).shift).toBe(-1)
    expect(compareCuts(t, [12, 30, 46, 61].map(cut)).shift).toBeNull()
  })
  it('make shots where no list was given', () => {
    const whole = timeline([event(0, 80, 'A', 0)])
    expect(shotsWithFound(whole, [20, 50].map(cut)).map((s) => [s.in, s.out])).toEqual([
      [0, 20],
      [20, 50],
      [50, 80],
    ])
    expect(shotsWithFound(t, [20, 50].map(cut))).toHaveLength(5)
  })
})
