/** An ancillary packet (SMPTE ST 291-1): its data identifiers and its words, 8 bits of each. */
export interface Packet {
  readonly did: number
  readonly sdid: number
  readonly words: Uint8Array
}
