import { Writer } from '../../bytes'

/** A box: size, type, payload (ISO/IEC 14496-12 4.2). */
export function box(type: string, ...payload: readonly Uint8Array[]): Uint8Array {
  const size = payload.reduce((n, p) => n + p.length, 8)
  const w = new Writer().u32(size).tag(type)
  for (const p of payload) w.raw(p)
  return w.bytes()
}

/** A box with version and flags. */
export function fullBox(type: string, version: number, flags: number, ...payload: readonly Uint8Array[]): Uint8Array {
  return box(type, new Writer().u8(version).u24(flags).bytes(), ...payload)
}
