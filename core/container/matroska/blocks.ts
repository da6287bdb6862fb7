import { soundCodecCalled } from '../../codec/registry'
import type { Samples } from '../../time/rate'
import { field, id, none, numberIn, signed, unsigned, variable, words, type Element, type Window } from './ebml'

/** A track as its entry describes it, and the places and times of its frames. */
export interface Track {
  readonly number: number
  readonly kind: number
  /** Players leave it out. */
  readonly off: boolean
  readonly codec: string
  readonly private: Uint8Array | null
  readonly delay: number
  readonly duration: number
  readonly video: Uint8Array | null
  readonly audio: Uint8Array | null
  readonly offsets: number[]
  readonly sizes: number[]
  /** In ticks of the file's timestamp scale. */
  readonly times: number[]
  readonly sync: number[]
  /** Samples of each packet, where its first bytes tell; null where they do not. */
  readonly lengths: (Samples | null)[]
  /** Ticks that the last block says it lasts, and nanoseconds at its end that are not to be heard. */
  last: { readonly ticks: number; readonly discard: number } | null
}

/** A track without frames, of an entry's bytes; null when it is compressed or encrypted as a whole. */
export function trackOf(bytes: Uint8Array): Track | null {
  if (field(bytes, id.encodings)) return null
  return {
    number: numberIn(bytes, id.number),
    kind: numberIn(bytes, id.type),
    off: field(bytes, id.enabled) !== null && numberIn(bytes, id.enabled) === 0,
    codec: words(field(bytes, id.codec) ?? none),
    private: field(bytes, id.codecPrivate),
    delay: numberIn(bytes, id.codecDelay),
    duration: numberIn(bytes, id.defaultDuration),
    video: field(bytes, id.video),
    audio: field(bytes, id.audio),
    offsets: [],
    sizes: [],
    times: [],
    sync: [],
    lengths: [],
    last: null,
  }
}

/** Adds the frames of a block or a group to its track; `clusterTime` is what its time counts from. */
export async function readBlock(
  view: Window,
  e: Element,
  clusterTime: number,
  tracks: ReadonlyMap<number, Track>,
): Promise<void> {
  const block = e.id === id.group ? await inGroup(view, e) : { ...e, sync: null, last: null }
  if (!block) return
  const { body, size } = block
  const head = await view.at(body, Math.min(size, 1024))
  const number = variable(head, 0, false)
  if (!number || head.length < number.length + 3) return
  const track = tracks.get(number.value)
  if (!track) return
  const relative = ((head[number.length]! << 24) >> 16) | head[number.length + 1]!
  const flags = head[number.length + 2]!
  const start = number.length + 3
  const frames = laced(head, start, size, (flags >> 1) & 3)
  const length = soundCodecCalled('matroska', track.codec)?.packetLength
  track.last = block.last
  let offset = body + (frames[0]?.skip ?? start)
  for (const f of frames) {
    if (length) track.lengths.push(length.of(await view.at(offset, Math.min(f.size, length.bytes))))
    track.offsets.push(offset)
    track.sizes.push(f.size)
    track.times.push(clusterTime + relative)
    track.sync.push(block.sync ?? flags >> 7)
    offset += f.size
  }
}

/**
 * A group holds its block and, for pictures that lean on others, a reference; it may say how long it lasts, and how
 * much of its end is not to be heard (RFC 9559 5.1.3.5.3, 5.1.3.5.7).
 */
async function inGroup(view: Window, e: Element): Promise<(Element & { sync: number } & Pick<Track, 'last'>) | null> {
  let found: Element | null = null
  let leans = false
  let [ticks, discard] = [0, 0]
  for (let at = e.body; at < e.body + e.size;) {
    const part = await view.header(at)
    if (!part || part.body + part.size > e.body + e.size) break
    if (part.id === id.block) found = part
    if (part.id === id.reference) leans = true
    if (part.id === id.blockDuration) ticks = unsigned(await view.at(part.body, Math.min(part.size, 8)))
    if (part.id === id.discard) discard = signed(await view.at(part.body, Math.min(part.size, 8)))
    at = part.body + part.size
  }
  return found && { ...found, sync: leans ? 0 : 1, last: { ticks, discard } }
}

/**
 * The frames of a block: alone, or several laced together (RFC 9559 10.3). `skip` of the first is where data begins in
 * the block.
 */
function laced(head: Uint8Array, start: number, size: number, lacing: number): { size: number; skip?: number }[] {
  if (lacing === 0) return [{ size: size - start, skip: start }]
  const count = (head[start] ?? 0) + 1
  let at = start + 1
  const sizes: number[] = []
  if (lacing === 1) {
    for (let i = 0; i + 1 < count; i++) {
      let n = 0
      let b = 255
      while (b === 255 && at < head.length) {
        b = head[at++]!
        n += b
      }
      sizes.push(n)
    }
  } else if (lacing === 3) {
    let n = 0
    for (let i = 0; i + 1 < count; i++) {
      const v = variable(head, at, false)
      if (!v) return []
      // the first is a size, the others are differences, biased to be positive
      n = i === 0 ? v.value : n + v.value - (2 ** (7 * v.length - 1) - 1)
      at += v.length
      sizes.push(n)
    }
  }
  const rest = size - at - sizes.reduce((n, s) => n + s, 0)
  if (lacing === 2)
    return Array.from({ length: count }, (_, i) => ({
      size: Math.floor((size - at) / count),
      ...(i === 0 ? { skip: at } : {}),
    }))
  if (rest < 0 || sizes.some((s) => s < 0)) return []
  return [...sizes, rest].map((s, i) => ({ size: s, ...(i === 0 ? { skip: at } : {}) }))
}
