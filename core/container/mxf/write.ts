import { concatBytes, Writer } from '../../bytes'
import { fail } from '../../problem'
import type { Lines, UnitPlan, Units } from '../container'
import { noLines } from './ancillary'
import { essenceOf, type Essence, type FileEssence } from './essence'
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
  /** Bytes of the system item in front, with its fill; 0 where there is none. */
  readonly lead: number
  readonly elements: readonly { readonly at: number; readonly slot: number }[]
  readonly bytes: number
}

/** Elements one after the other on the grid, each with room for its longest and for fill behind any of its lengths. */
function packageOf(plan: UnitPlan, { tracks, system }: FileEssence): Package {
  const lead = system ? aligned(system(0).length + headBytes, grid) : 0
  const samples = mostSamples(plan)
  let at = lead
  const elements = tracks.map((e) => {
    // lengths of a sound element are one sample apart: for each there is no fill, or enough for a key and a length
    const lengths = (variable(plan) ? [0, 1, 2] : [0]).map((less) => e.bytes(samples - less))
    let slot = aligned(headBytes + lengths[0]!, grid)
    // lines have any length up to that
    if (e.lines !== undefined) slot = aligned(headBytes + lengths[0]! + headBytes, grid)
    while (lengths.some((n) => slot - headBytes - n > 0 && slot - headBytes - n < headBytes)) slot += grid
    const element = { at, slot }
    at += slot
    return element
  })
  return { lead, elements, bytes: at }
}

/** Samples of the longest frame: one has a sample more or less than another where rates do not divide each other. */
function mostSamples(plan: UnitPlan): number {
  let most = 0
  for (let n = 0; n < Math.min(plan.frames, 10); n++)
    most = Math.max(most, plan.samplesBefore(n + 1) - plan.samplesBefore(n))
  return plan.frames > 10 && variable(plan) ? most + 1 : most
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
  /** Bytes of essence in partitions before. */
  readonly bodyOffset: number
}

/** A partition pack, closed and complete (ST 377-1 7.1). */
function partition(p: Place, containers: readonly Uint8Array[]): Uint8Array {
  const w = new Writer()
  w.u16(1).u16(3).u32(grid).u64(p.at).u64(p.previous).u64(p.footer).u64(p.header).u64(p.index)
  w.u32(p.indexSid).u64(p.bodyOffset).u32(p.bodySid).raw(bytesOf(op1a)).raw(value.list(containers))
  return klv(`${keys.partition}${partitions[p.kind]}${partitions.closed}00`, w.bytes())
}

/** The index of a file whose content packages are all of one size (ST 377-1 11.2.2). */
function indexTable(plan: UnitPlan, { lead, elements, bytes }: Package): Uint8Array {
  const places = [...(lead ? [0] : []), ...elements.map(({ at }) => at)]
  const deltas = places.map((at) => new Writer().u8(0).u8(0).u32(at).bytes())
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

/** Partitions of essence: the first frame of each, and where its pack stands. */
function bodiesOf({ frames, partitionFrames = frames }: UnitPlan, first: number, pack: number, unit: number) {
  const each = Math.max(1, partitionFrames)
  const packAt = (n: number) => first + n * (pack + each * unit)
  const count = Math.max(1, Math.ceil(frames / each))
  return {
    each,
    list: Array.from({ length: count }, (_, n) => ({ frame: n * each, at: packAt(n) })),
    frameAt: (frame: number) => packAt(Math.floor(frame / each)) + pack + (frame % each) * unit,
    end: first + count * pack + frames * unit,
  }
}

/**
 * Lays out an OP1a file whose pictures are all of one size (SMPTE ST 377-1, ST 378, ST 379-2): header metadata, the
 * index, the essence frame by frame in one partition or several, the footer with the metadata again, the random index.
 * All is known before a picture is made.
 */
export function layUnits(_brand: string, plan: UnitPlan): Units {
  const essence = essenceOf(plan)
  const content = packageOf(plan, essence)
  const { bytes: metadata, containers } = headerMetadata(plan, essence.tracks, sids)
  const header = padded(metadata)
  const index = padded(indexTable(plan, content))
  const none = { previous: 0, footer: 0, header: 0, index: 0, indexSid: 0, bodySid: 0, bodyOffset: 0 }
  const pack = padded(partition({ kind: 'header', at: 0, ...none }, containers)).length
  const indexAt = pack + header.length
  const bodies = bodiesOf(plan, indexAt + pack + index.length, pack, content.bytes)
  const footer = bodies.end
  const at = (p: Partial<Place> & Pick<Place, 'kind' | 'at'>) =>
    padded(partition({ ...none, footer, ...p }, containers))
  const body = (n: number) =>
    at({
      ...{ kind: 'body', at: bodies.list[n]!.at, previous: bodies.list[n - 1]?.at ?? indexAt },
      ...{ bodySid: sids.body, bodyOffset: bodies.list[n]!.frame * content.bytes },
    })
  const head = concatBytes([
    at({ kind: 'header', at: 0, header: header.length }),
    header,
    at({ kind: 'body', at: indexAt, index: index.length, indexSid: sids.index }),
    index,
    body(0),
  ])
  const partitionsThere = [
    [0, 0],
    [0, indexAt],
    ...bodies.list.map((b) => [sids.body, b.at] as const),
    [0, footer],
  ] as const
  const random = new Writer()
  for (const [sid, place] of partitionsThere) random.u32(sid).u64(place)
  random.u32(headBytes + partitionsThere.length * 12 + 4)
  const previous = bodies.list.at(-1)!.at
  const tail = concatBytes([
    at({ kind: 'footer', at: footer, previous, header: header.length, index: index.length, indexSid: sids.index }),
    header,
    index,
    klv(keys.randomIndex, random.bytes()),
  ])
  const frames = new Packages(plan, essence, content)
  return {
    head,
    tail: { at: footer, bytes: tail },
    unit(frame, picture, sound, lines = []) {
      const n = frame / bodies.each
      // the pack of a further partition goes with its first frame
      const opened = n > 0 && Number.isInteger(n) ? [{ at: bodies.list[n]!.at, bytes: body(n) }] : []
      return [...opened, { at: bodies.frameAt(frame), bytes: frames.package(frame, picture, sound, lines) }]
    },
  }
}

/** Makes content packages: keys, lengths and fill stand ready for each number of samples, essence is set between. */
class Packages {
  private readonly ready = new Map<number, readonly [Uint8Array, Uint8Array]>()
  private made = 0

  constructor(
    private readonly plan: UnitPlan,
    private readonly essence: FileEssence,
    private readonly content: Package,
  ) {}

  private template(samples: number): Uint8Array {
    const out = new Uint8Array(this.content.bytes)
    this.content.elements.forEach(({ at, slot }, i) => {
      const track = this.essence.tracks[i]!
      if (track.lines !== undefined) return
      const length = track.bytes(samples)
      out.set(klvHead(track.key, length), at)
      out.set(fill(slot - headBytes - length), at + headBytes + length)
    })
    return out
  }

  /** The bytes are written over by the next package but one. */
  package(frame: number, picture: Uint8Array, sound: readonly Float32Array[], lines: readonly Lines[]): Uint8Array {
    const { plan, content } = this
    if (picture.length !== plan.pictureBytes)
      fail('internal.error', `A picture of ${picture.length} bytes came where ${plan.pictureBytes} are due.`)
    const samples = plan.samplesBefore(frame + 1) - plan.samplesBefore(frame)
    const ready = this.ready.get(samples) ?? ([this.template(samples), this.template(samples)] as const)
    this.ready.set(samples, ready)
    const out = ready[this.made++ % 2]!
    const { system, tracks } = this.essence
    if (system) {
      const item = system(frame)
      out.set(item)
      out.set(fill(content.lead - item.length), item.length)
    }
    content.elements.forEach(({ at, slot }, i) => {
      const track = tracks[i]!
      if (track.lines !== undefined)
        this.lines(out.subarray(at, at + slot), track, lines[track.lines] ?? noLines, frame)
      else out.set(track.sound?.(sound) ?? picture, at + headBytes)
    })
    return out
  }

  /** Writes the lines of a frame into their slot, and fill behind them. */
  private lines(slot: Uint8Array, { key, bytes }: Essence, lines: Uint8Array, frame: number): void {
    const room = bytes(0)
    if (lines.length > room)
      fail(
        'mxf.lines',
        `The ancillary data of frame ${frame} takes ${lines.length} bytes; there is room for ${room}.`,
        undefined,
        'Ask for a source with less of it in a frame.',
      )
    slot.set(klvHead(key, lines.length))
    slot.set(lines, headBytes)
    slot.set(fill(slot.length - headBytes - lines.length), headBytes + lines.length)
  }
}
