import { BitReader, unescapeNal } from '../../bits'
import { avcUnits, nalUnits } from '../nal'
import { parseAvcConfiguration } from './describe'

/** NAL unit types of slices (H.264 table 7-1): 1 of a picture that leans on others, 5 of one decoding begins at. */
const [slice, idrSlice] = [1, 5]

/**
 * What is wrong with an access unit as MP4 holds it (ISO/IEC 14496-15 5.3.4.2): NAL units behind their lengths, which
 * fill it exactly, with slices among them that are all of a sync sample or none. Null when nothing is.
 */
export function unitFault(unit: Uint8Array, sync: boolean, configuration: Uint8Array): string | null {
  const { lengthSize } = parseAvcConfiguration(configuration)
  const types = new Set<number>()
  let at = 0
  while (at < unit.length) {
    if (at + lengthSize > unit.length) return 'it ends within the length of a NAL unit'
    let length = 0
    for (let i = 0; i < lengthSize; i++) length = length * 256 + unit[at + i]!
    at += lengthSize
    if (length === 0 || at + length > unit.length) return 'a NAL unit is longer than what is there, or empty'
    const header = unit[at]!
    if (header & 0x80) return 'a NAL unit has its forbidden bit set'
    types.add(header & 0x1f)
    at += length
  }
  if (!types.has(slice) && !types.has(idrSlice)) return 'there is no slice of a picture in it'
  if (types.has(slice) && types.has(idrSlice)) return 'its slices are of two kinds'
  if (types.has(idrSlice) !== sync) return sync ? 'decoding cannot begin at it' : 'it is said to lean on others'
  return null
}

/** Whether a slice leans on no other picture, by its type (7.4.3): I or SI. */
function isIntra(unit: Uint8Array): boolean {
  const r = new BitReader(unescapeNal(unit.subarray(1, 17)))
  r.ue()
  return [2, 4].includes(r.ue() % 5)
}

/** Whether all slices of an access unit lean on no other picture; null where it has none that can be read. */
export function isAlone(access: Uint8Array, configuration: Uint8Array | null): boolean | null {
  try {
    const slices = nalUnits(access, configuration, avcUnits).filter((u) => [slice, idrSlice].includes(u[0]! & 31))
    return slices.length ? slices.every(isIntra) : null
  } catch {
    return null
  }
}
