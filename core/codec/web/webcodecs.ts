import { fail } from '../../problem'

/**
 * The W3C WebCodecs interface as far as it is used here. A browser has it; on a server an optional package brings it.
 * `null` where the machine has none: recipes and sources that need it then say so.
 */
export interface WebCodecs {
  readonly VideoDecoder: typeof VideoDecoder
  readonly VideoEncoder: typeof VideoEncoder
  readonly VideoFrame: typeof VideoFrame
  readonly EncodedVideoChunk: typeof EncodedVideoChunk
  readonly AudioDecoder: typeof AudioDecoder
  readonly AudioEncoder: typeof AudioEncoder
  readonly AudioData: typeof AudioData
  readonly EncodedAudioChunk: typeof EncodedAudioChunk
}

export function needCodecs(codecs: WebCodecs | null, what: string): WebCodecs {
  return (
    codecs ??
    fail(
      'codec.none',
      `${what} cannot be decoded or encoded on this machine: the codec package is not installed.`,
      undefined,
      'Run npm install with optional packages, or use a recipe that needs no coded pictures.',
    )
  )
}
