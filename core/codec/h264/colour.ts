import { BitReader, BitWriter, escapeNal, unescapeNal } from '../../bits'
import { Writer } from '../../bytes'
import type { Colour } from '../../media/media'
import { parseAvcConfiguration, usabilityAt } from './describe'

/**
 * A sequence parameter set (with its header byte) whose usability information states a colour (ITU-T H.264 E.1.1);
 * everything else of it stays as it is.
 */
export function withColour(sps: Uint8Array, colour: Colour): Uint8Array {
  const bytes = unescapeNal(sps.subarray(1))
  const at = usabilityAt(bytes)
  if (at === null) return sps
  const w = new BitWriter()
  const r = new BitReader(bytes)
  const copy = (n: number) => {
    for (let i = 0; i < n; i++) w.u(1, r.u(1))
  }
  const signal = () => {
    // video_signal_type_present, unspecified format, range, and a colour description
    w.u(1, 1)
      .u(3, 5)
      .u(1, colour.fullRange ? 1 : 0)
      .u(1, 1)
    w.u(8, colour.primaries).u(8, colour.transfer).u(8, colour.matrix)
  }
  copy(at)
  if (r.u(1) === 0) {
    // no usability information so far: this is all of it
    w.u(1, 1).u(2, 0)
    signal()
    w.u(6, 0)
    return rebuilt(sps, w)
  }
  w.u(1, 1)
  const aspect = r.u(1)
  w.u(1, aspect)
  if (aspect) {
    const idc = r.u(8)
    w.u(8, idc)
    if (idc === 255) copy(32)
  }
  const overscan = r.u(1)
  w.u(1, overscan)
  if (overscan) copy(1)
  if (r.u(1)) {
    r.skip(4)
    if (r.u(1)) r.skip(24)
  }
  signal()
  // to the stop bit, which closes what there is
  let last = bytes.length * 8 - 1
  while (last > 0 && !((bytes[last >> 3]! >> (7 - (last & 7))) & 1)) last--
  copy(r.left - (bytes.length * 8 - last))
  return rebuilt(sps, w)
}

function rebuilt(sps: Uint8Array, w: BitWriter): Uint8Array {
  const payload = escapeNal(w.stop())
  const out = new Uint8Array(payload.length + 1)
  out[0] = sps[0]!
  out.set(payload, 1)
  return out
}

/** An AVCDecoderConfigurationRecord (ISO/IEC 14496-15 5.3.3.1) whose parameter sets state a colour. */
export function configurationWithColour(record: Uint8Array, colour: Colour): Uint8Array {
  const { sps, length } = parseAvcConfiguration(record)
  const w = new Writer().raw(record.subarray(0, 6))
  for (const s of sps.map((s) => withColour(s, colour))) w.u16(s.length).raw(s)
  return w.raw(record.subarray(length)).bytes()
}
