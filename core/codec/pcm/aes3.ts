import { stepped } from '../../kernel/pcm'

// Sound of D-10: elements of eight channels with the words of AES3 (SMPTE ST 331 8, ST 386 6.3).

/** Channels of an element, whether in use or not; bytes of its header, and of a channel's sample. */
export const aes3Channels = 8
export const aes3Header = 4
const wordBytes = 4

/** Bytes of an element of so many samples. */
export const aes3Bytes = (samples: number) => aes3Header + samples * aes3Channels * wordBytes

/**
 * Channels, at most eight, as an element: which there are, how many samples, then for each sample a word of each
 * channel: four bits that say which, 24 of the sample, four that are told not to hold.
 */
export function encodeAes3(channels: readonly Float32Array[]): Uint8Array {
  const count = channels[0]?.length ?? 0
  const out = new Uint8Array(aes3Bytes(count))
  const view = new DataView(out.buffer)
  view.setUint16(1, count, true)
  out[3] = (1 << channels.length) - 1
  for (let k = 0; k < aes3Channels; k++) {
    const samples = channels[k]
    for (let i = 0, at = aes3Header + k * wordBytes; i < count; i++, at += aes3Channels * wordBytes)
      view.setUint32(at, (((samples ? stepped(samples[i]!, 8388608) : 0) & 0xffffff) << 4) | k, true)
  }
  return out
}
