import { sql } from 'kysely'
import type { AnalysisState, ShownTimeline, SoundLevels } from '../../contract/timelines'
import type { SoundAnalysis } from '../../core/analysis/soundanalysis'
import { SoundTracer, truePeaksOf } from '../../core/analysis/soundtrace'
import { openChannels } from '../../core/codec/sound'
import { encodePcm } from '../../core/codec/pcm/pcm'
import { wavHead } from '../../core/container/wav/write'
import type { PictureFacts } from '../../core/analysis/pictures'
import { lineageOf } from '../../core/deliverable/lineage'
import { keyText } from '../../core/deliverable/outlet'
import { canDownmix, downmixed, mostOfStereo } from '../../core/sound/downmix'
import { layoutOf, unnamed } from '../../core/sound/layout'
import { fail } from '../../core/problem'
import type { SplitTimeline } from '../../core/split/timeline'
import { trimAssembly } from '../../core/timeline/assembly/assembly'
import { compareCuts, hasCuts } from '../../core/timeline/comparecuts'
import type { FrameRange } from '../../core/time/range'
import { frameInFile } from '../../core/lineup/lineup'
import { countsSamples, nominalRate, traceRate, type Frames } from '../../core/time/rate'
import { sampleAtFrame, traceAt, workFrames } from '../../core/time/samples'
import { previewWidth, readPreview } from '../storage/framestore'
import { filesOf } from '../../core/files/fileset'
import { readSoundTraces } from '../storage/soundtraces'
import { checkFingerprint, fingerprintOf } from '../storage/fingerprint'
import type { Roots } from '../storage/roots'
import type { Db } from '../store/database'
import { factKeys, readFacts } from '../store/facts'
import { machineCodecs } from '../worker/codecs'
import { Handover } from '../runs/handover'
import type { FrameRef, Looked } from '../worker/messages'
import type { WorkerPool } from '../worker/pool'
import { openSource, originOf, type SourceRef } from '../worker/sources/source'
import { sourceOf, type Timelines } from './timelines'

/** Seconds that can be listened to at once. */
const longestListen = 300

/** Seconds of levels that are told at once. */
const longestLevels = 60

/** What the stations show and play of timelines. */
export class Viewing {
  constructor(
    private readonly db: Db,
    private readonly roots: Roots,
    private readonly cache: string,
    private readonly pool: WorkerPool,
    private readonly timelines: Timelines,
  ) {}

  async shown(t: SplitTimeline): Promise<ShownTimeline> {
    const { linking, ...rest } = t
    const analysis = await this.analysis(t)
    const found = analysis.pictures?.cuts
    return {
      ...rest,
      assembled: linking !== null,
      sources: await this.timelines.sources(t),
      mediaProblem: await this.timelines.mediaProblem(t),
      analysis,
      comparison: found && !linking && hasCuts(t.model) ? compareCuts(t.model, found) : null,
    }
  }

  async analysis(t: SplitTimeline): Promise<AnalysisState> {
    const keys = [factKeys.pictures(t.fingerprint), factKeys.sound(t.fingerprint)]
    const facts = await readFacts(this.db, keys)
    const hasPictures = t.info.video.length > 0
    const segments = Array.from({ length: hasPictures ? factKeys.segments(t.model.length) : 0 }, (_, k) =>
      factKeys.segment(t.fingerprint, k),
    )
    // what is queued or in hand, against everything: the sound and every frame of the pictures count alike
    const steps = await this.db
      .selectFrom('step')
      .select(['kind', 'frames_done', 'frames_total'])
      .where('run_id', 'is', null)
      .where('key', 'in', [...keys, ...segments])
      .where('state', 'in', ['ready', 'claimed', 'aside'])
      .execute()
    const share = (kind: string) => (kind === 'analyse-segment' ? 1 : 10)
    const left = steps.reduce((n, x) => n + (x.frames_total - x.frames_done) / share(x.kind), 0)
    const all = workFrames(t.model.length, t.model.rate) * (hasPictures ? 1.2 : 0.1)
    const progress = Math.max(0, Math.min(1, 1 - left / Math.max(1, all)))
    const heard = facts.get(keys[1]!) as SoundAnalysis | null | undefined
    const { shape: _shape, damage: _damage, closed: _closed, ...sound } = heard ?? ({} as SoundAnalysis)
    return {
      pictures: (facts.get(keys[0]!) as PictureFacts | undefined) ?? null,
      sound: heard ? sound : null,
      progress,
    }
  }

  /** Whether a step of the background pass over a timeline was given up. */
  async passFailed(t: SplitTimeline): Promise<boolean> {
    const content = sql<string>`json_extract(payload, '$.source.fingerprint.content')`
    const failed = await this.db
      .selectFrom('step')
      .select('id')
      .where('run_id', 'is', null)
      .where('state', '=', 'failed')
      .where('kind', 'like', 'analyse-%')
      .where(content, '=', t.fingerprint.content)
      .executeTakeFirst()
    return failed !== undefined
  }

  /** Where the file of a flattened timeline is, after looking whether it is still the one that was brought in. */
  async media(t: SplitTimeline): Promise<string> {
    const file = this.roots.resolve(t.file.root, t.file.path)
    if (t.linking || filesOf(file))
      fail('timeline.assembled', 'This timeline is made of many files; it has none of its own.', t.name)
    await checkFingerprint(file, t.fingerprint, t.file.path)
    return file
  }

  /** The picture of a frame as JPEG: from the previews when a small one will do, else decoded now. */
  async picture(t: SplitTimeline, frame: Frames, width: number): Promise<Buffer> {
    checkFrame(t, frame)
    const ref = framesOf(t, frame)
    const origin = originOf(ref, t.linking?.infos ?? [])
    const preview = width <= previewWidth ? await readPreview(this.cache, origin(frame)) : null
    return preview ?? Buffer.from((await this.pool.look(ref, frame, { as: 'picture', width })).image)
  }

  /** The picture of a frame at its own size, as PNG. */
  async exact(t: SplitTimeline, frame: Frames): Promise<Looked> {
    checkFrame(t, frame)
    return this.pool.look(framesOf(t, frame), frame, { as: 'exact' })
  }

  /** The waveform of a frame, from its own samples. */
  async waveform(t: SplitTimeline, frame: Frames): Promise<Looked> {
    checkFrame(t, frame)
    return this.pool.look(framesOf(t, frame), frame, { as: 'waveform' })
  }

  /**
   * How far a frame is from another of its timeline, from the same one in a delivered file, given by its id, or
   * from one anywhere.
   */
  async difference(t: SplitTimeline, frame: Frames, from: Frames | string | FrameRef): Promise<Looked> {
    checkFrame(t, frame)
    const other = typeof from === 'string' ? await this.delivered(t, frame, from) : from
    return this.pool.look(framesOf(t, frame), frame, {
      as: 'difference',
      from: typeof other === 'number' ? this.frameOf(t, other) : other,
    })
  }

  private frameOf(t: SplitTimeline, frame: Frames): FrameRef {
    checkFrame(t, frame)
    return { source: framesOf(t, frame), frame }
  }

  /** A frame of a timeline in the file that was delivered of it, or of an older version of its region. */
  private async delivered(t: SplitTimeline, frame: Frames, id: string): Promise<FrameRef> {
    const done = await new Handover(this.db).one(id)
    const nowhere = () =>
      fail('file.missing', 'This frame is not in the delivered file.', done?.path, 'Choose a frame of its region.')
    if (!done) return nowhere()
    const { region, timeline, outlet, target } = done.item
    const key = keyText({ timelineId: timeline.id, regionId: region.id, outletId: outlet.id })
    const lineage = lineageOf(await this.timelines.list())
    const now = t.split.regions.find((r) =>
      lineage({ timelineId: t.id, regionId: r.id, outletId: outlet.id }).includes(key),
    )
    // an older version lies elsewhere: its region and this one begin together
    const first = timeline.id === t.id || !now ? region.in : now.in - (region.handles?.before ?? 0)
    const at = frameInFile(done.item.output, frame - first)
    if ((timeline.id !== t.id && !now) || at === null) return nowhere()
    const fingerprint = await fingerprintOf(this.roots.resolve(target.root, done.path))
    return { source: { root: target.root, path: done.path, fingerprint }, frame: at }
  }

  /**
   * True peak of each channel in every frame of a range, of sound alone in every hundredth of a second, linear: as the
   * pass over the sound kept it, else measured now.
   */
  async levels(t: SplitTimeline, from: Frames, to: Frames): Promise<SoundLevels> {
    checkRange(t, from, to)
    const sound = (await readFacts(this.db, [factKeys.sound(t.fingerprint)])).get(factKeys.sound(t.fingerprint))
    const shape = (sound as SoundAnalysis | null | undefined)?.shape
    const most = from + longestLevels * nominalRate(t.model.rate)
    const range = { in: from, out: Math.min(to, t.model.length, most) }
    const kept =
      shape && !countsSamples(t.model.rate) ? await readSoundTraces(this.cache, t.fingerprint, shape, range) : null
    if (!shape || !kept) return this.measuredLevels(t, range)
    const peaks = kept.map((row) => truePeaksOf(shape, row))
    return { channels: shape.channels, rate: shape.rate, first: range.in, peaks }
  }

  private async measuredLevels(t: SplitTimeline, range: FrameRange): Promise<SoundLevels> {
    const { rate } = t.model
    const source = await openSource(this.roots, machineCodecs(), framesOf(t, range.in, range.out))
    try {
      const sound = source.sound()
      if (!sound) fail('media.no-sound', 'There is no sound in this timeline.', t.name)
      const shape = { channels: sound.channels, sampleRate: sound.sampleRate, rate: traceRate(rate) }
      const first = traceAt(range.in, rate)
      const tracer = new SoundTracer(shape, first, false)
      const begin = sampleAtFrame(first, shape.rate, sound.sampleRate)
      const end = Math.min(sound.samples, sampleAtFrame(range.out, rate, sound.sampleRate))
      tracer.feed(await sound.read(begin, Math.max(0, end - begin), openChannels(sound)))
      tracer.finish()
      const peaks = tracer.rows().map((row) => truePeaksOf(shape, row))
      return { channels: shape.channels, rate: shape.rate, first, peaks }
    } finally {
      await source.close()
    }
  }

  /**
   * Sound of a range for listening, 16 bit: one of its channels on both sides, two beside each other, several of one
   * mix brought together, others in turn left and right. The first two that can be read where none is named.
   */
  async listen(t: SplitTimeline, from: Frames, to: Frames, heard: readonly number[] = []): Promise<Buffer> {
    checkRange(t, from, to)
    const source = await openSource(this.roots, machineCodecs(), framesOf(t, from, to))
    try {
      const sound = source.sound()
      if (!sound) fail('media.no-sound', 'There is no sound in this timeline.', t.name)
      const { sampleRate } = sound
      const first = sampleAtFrame(from, t.model.rate, sampleRate)
      const end = sampleAtFrame(Math.min(to, t.model.length), t.model.rate, sampleRate)
      const count = Math.min(end - first, sampleRate * longestListen)
      const named = heard.filter((c) => c < sound.channels)
      const chosen = named.length ? named : openChannels(sound).slice(0, 2)
      const { layout = layoutOf(sound.channels) } = sound
      const channels = sides(await sound.read(first, count, chosen), chosen, layout)
      const head = wavHead({ channels: channels.length, sampleRate, bitDepth: 16, samples: count, bext: noBext })
      return Buffer.concat([head, encodePcm(channels, 16, true)])
    } finally {
      await source.close()
    }
  }
}

/** The sides that are heard of channels, which a layout names; none louder than the loudest of them could be. */
function sides(channels: readonly Float32Array[], heard: readonly number[], layout: string | null): Float32Array[] {
  const used = heard.map((c) => channels[c]!)
  if (used.length < 3) return used
  const names = layout?.split(' ') ?? []
  const from = heard.map((c) => names[c] ?? unnamed).join(' ')
  // who asks for the LFE is to hear it
  if (!from.includes('LFE') && canDownmix(from))
    return downmixed(used, { to: 'stereo', from }).map((side) => side.map((v) => v / mostOfStereo))
  return [0, 1].map((side) => {
    const own = used.filter((_, i) => i % 2 === side)
    return own[0]!.map((_, i) => own.reduce((sum, c) => sum + c[i]!, 0) / own.length)
  })
}

function checkFrame(t: SplitTimeline, frame: Frames): void {
  if (!Number.isInteger(frame) || frame < 0 || frame >= t.model.length)
    fail('frame.outside', `Frame ${frame} lies outside the timeline.`, t.name)
  if (t.info.video.length === 0) fail('media.no-pictures', 'This timeline is sound alone; it has no pictures.', t.name)
}

function checkRange(t: SplitTimeline, from: Frames, to: Frames): void {
  if (!Number.isInteger(from) || !Number.isInteger(to) || from < 0 || to <= from)
    fail('frame.outside', 'This range lies outside the timeline.', t.name)
}

/** A timeline's source, cut down to what some frames of it need. */
function framesOf(t: SplitTimeline, from: Frames, to = from + 1): SourceRef {
  const ref = sourceOf(t)
  return ref.assembly ? { ...ref, assembly: trimAssembly(ref.assembly, { in: from, out: to }) } : ref
}

const noBext = {
  description: '',
  originator: '',
  originatorReference: '',
  date: '',
  time: '',
  timeReference: 0,
  loudness: null,
  history: '',
}
