import { soundCodec } from '../../../core/codec/registry'
import { mulDivRound } from '../../../core/time/samples'
import type { DeliverableStep } from '../context'
import { encodePiece, type Piece } from '../making/pieces'

/** Encodes all sound of a deliverable. */
export async function encodeSound(step: DeliverableStep): Promise<Piece> {
  const { item, source } = step
  const { output, recipe } = item
  const a = output.audio!
  const settings = { channels: a.channels, sampleRate: a.sampleRate, bitrate: recipe.soundBitrate * 1000 }
  const encoder = soundCodec(a.codec)!.encode!.open(settings, step.codecs)
  const second = a.sampleRate
  return encodePiece(step, encoder, async function* () {
    for (let at = 0; at < output.samples; at += second) {
      yield await source.soundOf(at, Math.min(second, output.samples - at))
      step.progress(mulDivRound(output.frames, at, Math.max(1, output.samples)))
    }
  })
}
