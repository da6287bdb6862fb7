import { soundCodec } from '../../../core/codec/registry'
import type { EncodedUnit } from '../../../core/codec/codec'
import { mulDivRound, sampleAtFrame } from '../../../core/time/samples'
import type { DeliverableStep } from '../context'
import { savePiece, type Piece } from '../pieces'

/** Encodes all sound of a deliverable. */
export async function encodeSound(step: DeliverableStep): Promise<Piece> {
  const { item, source } = step
  const { output, recipe } = item
  const a = output.audio!
  const settings = { channels: a.channels, sampleRate: a.sampleRate, bitrate: recipe.soundBitrate * 1000 }
  const encoder = soundCodec(a.codec)!.encode!.open(settings, step.codecs)
  const units: EncodedUnit[] = []
  const first = sampleAtFrame(item.region.in, item.timeline.rate, a.sampleRate)
  const second = a.sampleRate
  try {
    for (let at = 0; at < output.samples; at += second) {
      await encoder.feed(await source.soundOf(first + at, Math.min(second, output.samples - at)))
      units.push(...encoder.take())
      step.progress(mulDivRound(output.frames, at, Math.max(1, output.samples)))
    }
    await encoder.flush()
    units.push(...encoder.take())
  } finally {
    encoder.close()
  }
  return savePiece(step, units, encoder.configuration())
}
