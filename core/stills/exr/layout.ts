// What is the same for reading and writing (openexr.com, “OpenEXR File Layout” and “Standard Attributes”).

export const magic = 0x01312f76

/** Lines of a block by the code of its compression: none, ZIPS, ZIP. */
export const blockLines: ReadonlyMap<number, number> = new Map([
  [0, 1],
  [2, 1],
  [3, 16],
])

/** Set in a packed timecode when labels are dropped. */
export const dropFlag = 1 << 6

/** The exponent of a display (ITU-R BT.1886 with black at nothing). */
const gamma = 2.4

/** Light of a display by its signal; what lies below black is mirrored. */
export const lightOf = (signal: number): number => (signal < 0 ? -((-signal) ** gamma) : signal ** gamma)

/** The signal that a display makes a light from. */
export const signalFor = (light: number): number => (light < 0 ? -((-light) ** (1 / gamma)) : light ** (1 / gamma))

/** What goes before deflating: the even bytes before the odd ones, and of each its difference to the one before. */
export function filtered(bytes: Uint8Array): Uint8Array {
  const out = new Uint8Array(bytes.length)
  const half = (bytes.length + 1) >> 1
  for (let i = 0; i < bytes.length; i++) out[i & 1 ? half + (i >> 1) : i >> 1] = bytes[i]!
  for (let i = out.length - 1; i > 0; i--) out[i] = out[i]! - out[i - 1]! + 128
  return out
}

/** Undoes {@link filtered}; the bytes are written over. */
export function unfiltered(bytes: Uint8Array): Uint8Array {
  for (let i = 1; i < bytes.length; i++) bytes[i] = bytes[i - 1]! + bytes[i]! - 128
  const out = new Uint8Array(bytes.length)
  const half = (bytes.length + 1) >> 1
  for (let i = 0; i < bytes.length; i++) out[i] = bytes[i & 1 ? half + (i >> 1) : i >> 1]!
  return out
}
