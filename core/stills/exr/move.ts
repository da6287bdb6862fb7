import { concatBytes, Reader, Writer } from '../../bytes'
import type { StillPlace } from '../still'
import { blockLines } from './layout'
import { nameIn, readHead } from './read'
import { attributeOf, hasTime, packed, textOf } from './write'

/** Where the attributes of a header stand, with where their values do, by name. */
function placesOf(bytes: Uint8Array, name: string) {
  const r = new Reader(bytes, name)
  r.skip(8)
  const out: { readonly key: string; readonly from: number; readonly value: number; readonly to: number }[] = []
  for (let from = r.pos, key = nameIn(r); key; from = r.pos, key = nameIn(r)) {
    nameIn(r)
    const size = r.i32le()
    const value = r.pos
    r.skip(size)
    out.push({ key, from, value, to: r.pos })
  }
  return out
}

/**
 * An OpenEXR file for another place: its timecode, its rate and its reel are said anew, or taken out where the rate is
 * too high for a timecode and the timecode of no reel. Blocks lie as far behind the header as before.
 */
export function moved(bytes: Uint8Array, place: StillPlace): Uint8Array {
  const head = new Reader(bytes, place.name)
  const { height, compression } = readHead(head)
  const there = placesOf(bytes, place.name)
  const time = there.find((a) => a.key === 'timeCode')
  const user = time && time.to - time.value >= 8 ? new Reader(bytes.subarray(time.value + 4)).u32le() : 0
  const said = ['timeCode', 'framesPerSecond', 'reelName']
  const header = concatBytes([
    bytes.subarray(0, 8),
    ...there.filter((a) => !said.includes(a.key)).map((a) => bytes.subarray(a.from, a.to)),
    attributeOf('framesPerSecond', 'rational', (v) => v.u32le(place.rate.num).u32le(place.rate.den)),
    ...(hasTime(place.rate)
      ? [attributeOf('timeCode', 'timecode', (v) => v.u32le(packed(place.timecode)).u32le(user))]
      : []),
    ...(place.reel ? [attributeOf('reelName', 'string', textOf(place.reel))] : []),
    Uint8Array.of(0),
  ])
  const count = Math.ceil(height / blockLines.get(compression)!)
  const further = header.length - head.pos
  const table = new Writer()
  for (let i = 0; i < count; i++) table.u64le(head.u64le() + further)
  return concatBytes([header, table.bytes(), bytes.subarray(head.pos)])
}
