// Keys and labels of MXF (SMPTE ST 377-1, ST 379-2, ST 381-3, ST 382; values from the SMPTE metadata registers), as
// text of 32 hexadecimal digits: so they can be compared, and a family of them recognised by its beginning.

/** Bytes as hexadecimal digits. */
export function hex(bytes: Uint8Array): string {
  let out = ''
  for (const b of bytes) out += b.toString(16).padStart(2, '0')
  return out
}

/** The bytes of a label. */
export function bytesOf(label: string): Uint8Array {
  return Uint8Array.from({ length: label.length / 2 }, (_, i) => parseInt(label.slice(2 * i, 2 * i + 2), 16))
}

const smpte = '060e2b34'

/** Keys of what a file is made of. */
export const keys = {
  /** A partition's kind and state follow. */
  partition: `${smpte}020501010d01020101`,
  /** One of the kinds of {@link partitions}; other packs of a header have other numbers there. */
  anyPartition: /^060e2b34020501..0d01020101(02|03|04)/,
  primer: `${smpte}020501010d0102010105`,
  /** A kind of set follows. */
  set: `${smpte}025301010d0101010101`,
  index: `${smpte}025301010d01020101100100`,
  randomIndex: `${smpte}020501010d01020101110100`,
  fill: `${smpte}010101020301021001000000`,
  /** Fill of earlier writers differs in the version byte. */
  anyFill: /^060e2b34010101..0301021001/,
  /** Essence of the generic container: item, count, kind and number follow. */
  essence: /^060e2b34010201..0d010301/,
} as const

/** Kinds of partition, and whether it is closed and complete. */
export const partitions = { header: '02', body: '03', footer: '04', closed: '04' } as const

/** Data definitions of tracks. */
export const definitions = {
  picture: `${smpte}040101010103020201000000`,
  sound: `${smpte}040101010103020202000000`,
  data: `${smpte}040101010103020203000000`,
  /** Descriptive metadata: markers. */
  description: `${smpte}040101010103020110000000`,
  timecode: `${smpte}040101010103020101000000`,
} as const

/** OP1a, streamed, with several tracks (ST 378). */
export const op1a = `${smpte}040101010d01020101010900`

/** Labels of essence containers that are written. */
export const wrappings = {
  /** H.264 byte stream, frame by frame (ST 381-3). */
  avc: `${smpte}0401010a0d01030102106001`,
  /** Broadcast wave, frame by frame (ST 382). */
  wave: `${smpte}040101010d01030102060100`,
  /** Lines of the blanking, frame by frame (ST 436-1). */
  vbi: `${smpte}040101090d010301020d0000`,
  ancillary: `${smpte}040101090d010301020e0000`,
  /** Several kinds of essence in one container (ST 379-2). */
  multiple: `${smpte}040101030d010301027f0100`,
} as const

/** Colour by code points of ITU-T H.273: labels of ST 2067-21 annex and the registers. */
export const colourLabels = {
  primaries: {
    1: `${smpte}040101060401010103030000`,
    5: `${smpte}040101060401010103020000`,
    6: `${smpte}040101060401010103010000`,
    9: `${smpte}0401010d0401010103040000`,
  } as Readonly<Record<number, string>>,
  transfer: {
    1: `${smpte}040101010401010101020000`,
    6: `${smpte}040101010401010101020000`,
    14: `${smpte}0401010e0401010101090000`,
    16: `${smpte}0401010d04010101010a0000`,
    18: `${smpte}0401010d04010101010b0000`,
  } as Readonly<Record<number, string>>,
  matrix: {
    1: `${smpte}040101010401010102020000`,
    5: `${smpte}040101010401010102010000`,
    6: `${smpte}040101010401010102010000`,
    9: `${smpte}0401010d0401010102060000`,
  } as Readonly<Record<number, string>>,
}

/** The code points of a label, by the bytes that name it: version bytes differ between writers. */
export function codePoints(labels: Readonly<Record<number, string>>, label: string): number[] {
  const name = (l: string) => l.slice(0, 14) + l.slice(16)
  return Object.entries(labels).flatMap(([code, l]) => (name(l) === name(label) ? [Number(code)] : []))
}
