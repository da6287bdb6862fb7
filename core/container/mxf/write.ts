import { concatBytes, Writer } from '../../bytes'
import { encodePcm } from '../../codec/pcm/pcm'
import { fail } from '../../problem'
import type { UnitPlan, Units } from '../container'
import { essenceOf, type Essence } from './essence'
import { headerMetadata } from './header'
import { aligned, fill, headBytes, klv, klvHead } from './klv'
import { bytesOf, keys, op1a, partitions } from './labels'
import { value } from './sets'
import { tags, type Property } from './tags'

/** The grid everything of a file stands on (ST 377-1 6.4.1). */
const grid = 512
const sids = { body: 1, index: 2 } as const

/** Where the elements of a content package stand, counted from its beginning, and how long it is. */
interface Package {
  readonly elements: readonly { readonly at: number; readonly slot: number }[]
  readonly bytes: number
}

/** Elements one after the other on the grid, each with room for its longest and for fill behind any of its lengths. */
function packageOf(plan: UnitPlan, essence: readonly Essence[]): Package {
  let at = 0
  const elements = essence.map((e, i) => {
    // lengths of a sound element are one sample apart: for each there is no fill, or enough for a key and a length
    const lengths = i === 0 ? [e.most] : [e.most, ...(variable(plan) ? [e.most - 3, e.most - 6] : [])]
    let slot = aligned(headBytes + e.most, grid)
    while (lengths.some((n) => slot - headBytes - n > 0 && slot - headBytes - n < headBytes)) slot += grid
    const element = { at, slot }
    at += slot
    return element
  })
  return { elements, bytes: at }
}

/** Whether frames differ in their samples. */
function variable({ samplesBefore, frames }: UnitPlan): boolean {
  const first = samplesBefore(1)
  for (let n = 1; n < Math.min(frames, 10); n++) if (samplesBefore(n + 1) - samplesBefore(n) !== first) return true
  return false
}

interface Place {
  readonly kind: keyof typeof partitions
  readonly at: number
  readonly previous: number
  readonly footer: number
  readonly header: number
  readonly index: number
  readonly indexSid: number
  readonly bodySid: number
}

/** A partition pack, closed and complete (ST 377-1 7.1). */
function partition(p: Place, containers: readonly Uint8Array[]): Uint8Array {
  const w = new Writer()
  w.u16(1).u16(3).u32(grid).u64(p.at).u64(p.previous).u64(p.footer).u64(p.header).u64(p.index)
  w.u32(p.indexSid).u64(0).u32(p.bodySid).raw(bytesOf(op1a)).raw(value.list(containers))
  return klv(`${keys.partition}${partitions[p.kind]}${partitions.closed}00`, w.bytes())
}

/** The index of a file whose content packages are all of one size (ST 377-1 11.2.2). */
function indexTable(plan: UnitPlan, { elements, bytes }: Package): Uint8Array {
  const deltas = elements.map(({ at }) => new Writer().u8(0).u8(0).u32(at).bytes())
  const items: [Property, Uint8Array][] = [
    ['instance', Uint8Array.from(plan.identity, (b, i) => (i === 0 ? b ^ 0xff : b))],
    ['indexEditRate', value.rational(plan.rate)],
    ['indexStart', value.i64(0)],
    ['indexDuration', value.i64(plan.frames)],
    ['unitBytes', value.u32(bytes)],
    ['indexSid', value.u32(sids.index)],
    ['bodySid', value.u32(sids.body)],
    ['sliceCount', value.u8(0)],
    ['placeCount', value.u8(0)],
    ['deltas', value.list(deltas, 6)],
  ]
  const w = new Writer()
  for (const [name, v] of items) w.raw(bytesOf(tags[name][0])).u16(v.length).raw(v)
  return klv(keys.index, w.bytes())
}

/** Bytes with fill up to the grid behind them. */
function padded(bytes: Uint8Array): Uint8Array {
  return concatBytes([bytes, fill(aligned(bytes.length, grid) - bytes.length)])
}

/**
 * Lays out an OP1a file whose pictures are all of one size (SMPTE ST 377-1, ST 378, ST 379-2): header metadata, the
 * index, the essence frame by frame, the footer with the metadata again, the random index. All is known before a
 * picture is made.
 */
export function layUnits(_brand: string, plan: UnitPlan): Units {
  const essence = essenceOf(plan)
  const content = packageOf(plan, essence)
  const { bytes: metadata, containers } = headerMetadata(plan, essence, sids)
  const header = padded(metadata)
  const index = padded(indexTable(plan, content))
  const none = { previous: 0, footer: 0, header: 0, index: 0, indexSid: 0, bodySid: 0 }
  const pack = padded(partition({ kind: 'header', at: 0, ...none }, containers)).length
  const places = { index: pack + header.length, body: 2 * pack + header.length + index.length }
  const first = places.body + pack
  const footer = first + plan.frames * content.bytes
  const at = (p: Partial<Place> & Pick<Place, 'kind' | 'at'>) =>
    padded(partition({ ...none, footer, ...p }, containers))
  const head = concatBytes([
    at({ kind: 'header', at: 0, header: header.length }),
    header,
    at({ kind: 'body', at: places.index, index: index.length, indexSid: sids.index }),
    index,
    at({ kind: 'body', at: places.body, previous: places.index, bodySid: sids.body }),
  ])
  const partitionsThere = [
    [0, 0],
    [0, places.index],
    [sids.body, places.body],
    [0, footer],
  ] as const
  const random = new Writer()
  for (const [sid, place] of partitionsThere) random.u32(sid).u64(place)
  random.u32(headBytes + partitionsThere.length * 12 + 4)
  const tail = concatBytes([
    at({ kind: 'footer', at: footer, previous: places.body, header: header.length, index: index.length, indexSid: 2 }),
    header,
    index,
    klv(keys.randomIndex, random.bytes()),
  ])
  const frames = new Packages(plan, essence, content)
  return {
    head,
    tail: { at: footer, bytes: tail },
    unit: (frame, picture, sound) => [
      { at: first + frame * content.bytes, bytes: frames.package(frame, picture, sound) },
    ],
  }
}

/** Makes content packages: keys, lengths and fill stand ready for each number of samples, essence is set between. */
class Packages {
  private readonly ready = new Map<number, readonly [Uint8Array, Uint8Array]>()
  private made = 0

  constructor(
    private readonly plan: UnitPlan,
    private readonly essence: readonly Essence[],
    private readonly content: Package,
  ) {}

  private template(samples: number): Uint8Array {
    const out = new Uint8Array(this.content.bytes)
    this.content.elements.forEach(({ at, slot }, i) => {
      const length = i === 0 ? this.plan.pictureBytes : samples * 3
      out.set(klvHead(this.essence[i]!.key, length), at)
      out.set(fill(slot - headBytes - length), at + headBytes + length)
    })
    return out
  }

  /** The bytes are written over by the next package but one. */
  package(frame: number, picture: Uint8Array, sound: readonly Float32Array[]): Uint8Array {
    const { plan, content } = this
    if (picture.length !== plan.pictureBytes)
      fail('internal.error', `A picture of ${picture.length} bytes came where ${plan.pictureBytes} are due.`)
    const samples = plan.samplesBefore(frame + 1) - plan.samplesBefore(frame)
    const ready = this.ready.get(samples) ?? ([this.template(samples), this.template(samples)] as const)
    this.ready.set(samples, ready)
    const out = ready[this.made++ % 2]!
    out.set(picture, headBytes)
    sound.forEach((channel, i) => out.set(encodePcm([channel], 24, true), content.elements[i + 1]!.at + headBytes))
    return out
  }
}
