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
