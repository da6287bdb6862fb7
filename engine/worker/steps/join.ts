import path from 'node:path'
import { soundCodec } from '../../../core/codec/registry'
import type { TrackPlan } from '../../../core/container/container'
import { containerOf } from '../../../core/container/registry'
import type { FrozenDeliverable } from '../../../core/deliverable/sheet'
import { fail } from '../../../core/problem'
import { fileBase } from '../../../core/recipe/output'
import { nominalRate } from '../../../core/time/rate'
import { sampleAtFrame } from '../../../core/time/samples'
import { fileSink } from '../../storage/disk'
import { claimedFile, type DeliverableStep } from '../context'
import { audioEssence, planOf, videoEssence } from '../making/essence'
import type { CodedPictures } from '../making/looks'
import { chain, configurationOf, type Piece } from '../making/pieces'

/** Whether segments can stand in one track: all were encoded with the same parameters. */
function sharedConfiguration(segments: readonly Piece[], where: string): Uint8Array | null {
  const [first] = segments as [Piece]
  if (segments.some((s) => s.configuration !== first.configuration))
    fail(
      'encode.parameters',
      'Segments came out with different parameter sets and cannot be joined.',
      where,
      'Run it again; if it happens again, use another recipe.',
    )
  return configurationOf(first)
}

const sum = (sizes: readonly number[], from: number, to: number) => {
  let bytes = 0
  for (let i = from; i < to; i++) bytes += sizes[i]!
  return bytes
}

/** Pictures and sound one after the other, half a second of each at a time. */
function interleave(item: FrozenDeliverable, sizes: readonly number[], sound: Piece | null) {
  const { output } = item
  const { rate } = fileBase(item)
  const a = output.audio
  const codec = a && soundCodec(a.codec)?.encode
  const half = Math.max(1, Math.round(nominalRate(rate) / 2))
  const pictures: { offset: number; samples: number }[] = []
  const packets: { offset: number; samples: number }[] = []
  /** Copies, in file order: which stream, how many bytes. */
  const order: { sound: boolean; bytes: number }[] = []
  let at = 0
  let packet = 0
  for (let n = 0; n < sizes.length; n += half) {
    const end = Math.min(sizes.length, n + half)
    pictures.push({ offset: at, samples: end - n })
    order.push({ sound: false, bytes: sum(sizes, n, end) })
    at += sum(sizes, n, end)
    if (!sound || !a || !codec) continue
    const heard = Math.ceil((sampleAtFrame(end, rate, a.sampleRate) + codec.priming) / codec.packetSamples)
    const until = end === sizes.length ? sound.sizes.length : Math.min(sound.sizes.length, heard)
    if (until <= packet) continue
    packets.push({ offset: at, samples: until - packet })
    order.push({ sound: true, bytes: sum(sound.sizes, packet, until) })
    at += sum(sound.sizes, packet, until)
    packet = until
  }
  return { pictures, packets, order, half, dataSize: at }
}

/** A finished scratch file, and what its pictures are held against. */
export interface JoinedFile {
  readonly file: string
  /** Absent where segments were encoded by an earlier edition. */
  readonly coded?: CodedPictures
}

/** What all segments say of their pictures, as one. */
function codedOf(segments: readonly Piece[]): CodedPictures | null {
  const parts = segments.flatMap((s) => s.coded ?? [])
  if (parts.length < segments.length) return null
  return { sums: parts.map((p) => p.sums).join(''), looks: parts.flatMap((p) => p.looks) }
}

/** Joins segments and sound into one file with its index in front. */
export async function join(step: DeliverableStep): Promise<JoinedFile> {
  const { item, folder } = step
  const { output } = item
  const { rate } = fileBase(item)
  const segments = [...step.needed].filter(([key]) => key !== 'sound').map(([, piece]) => piece as Piece)
  const sound = (step.needed.get('sound') as Piece | undefined) ?? null
  const configuration = sharedConfiguration(segments, item.target.path)
  const sizes = segments.flatMap((s) => s.sizes)
  const placed = interleave(item, sizes, sound)
  const tracks: TrackPlan[] = [
    {
      essence: videoEssence(step, configuration),
      timescale: rate.num,
      sizes: Uint32Array.from(sizes),
      durations: { constant: rate.den },
      sync: Uint8Array.from(segments.flatMap((s) => s.sync)),
      chunks: placed.pictures,
    },
  ]
  if (output.audio && sound) {
    const { priming, packetSamples } = soundCodec(output.audio.codec)!.encode!
    tracks.push({
      essence: audioEssence(step, configurationOf(sound)),
      timescale: output.audio.sampleRate,
      sizes: Uint32Array.from(sound.sizes),
      durations: { constant: packetSamples },
      chunks: placed.packets,
      edit: { mediaTime: priming, duration: output.samples },
    })
  }
  const plan = { ...planOf(step), tracks, dataSize: placed.dataSize }
  const { head, tail } = containerOf(output.container).layout!(output.container, plan)
  const file = claimedFile(step, 'file')
  const sink = await fileSink(file)
  const pictures = await chain(segments.map((s) => path.join(folder, s.file)))
  const packets = sound ? await chain([path.join(folder, sound.file)]) : null
  try {
    await sink.write(0, head)
    let position = head.length
    let done = 0
    for (const o of placed.order) {
      const bytes = await (o.sound ? packets! : pictures).next(o.bytes)
      await sink.write(position, bytes)
      position += bytes.length
      if (!o.sound) done += placed.half
      step.progress(Math.min(done, output.frames))
    }
    await sink.write(position, tail)
    await sink.finish()
  } catch (e) {
    await sink.close().catch(() => undefined)
    throw e
  } finally {
    await pictures.close()
    await packets?.close()
  }
  const coded = codedOf(segments)
  return { file: path.basename(file), ...(coded ? { coded } : {}) }
}
