import { SampleClock, isMade } from '../../../core/lineup/lineup'
import { recipeKind } from '../../../core/recipe/registry'
import { dithered } from '../../../core/sound/dither'
import type { Samples } from '../../../core/time/rate'
import type { DeliverableStep } from '../context'

/**
 * Samples [from, from + count) of a file's channels as they are to be in it, but for rounding to its bits. Going into
 * fewer bits, sound gets dither where it had more of them or was worked on: what is written as it was stays so, sample
 * by sample, silence stays silence, and what is made for the file is left alone.
 */
export async function soundAsWritten(step: DeliverableStep, from: Samples, count: Samples): Promise<Float32Array[]> {
  const { item, source } = step
  const block = await source.soundOf(from, count)
  const { soundDepth, dither, gain } = item.recipe
  const { sampleRate, downmix } = item.output.audio!
  const finer = source.info.audio.some(
    (a) => a.codec !== 'pcm' || a.bitDepth > soundDepth || a.sampleRate !== sampleRate,
  )
  const asked = recipeKind(item.recipe).settings.includes('dither') && dither && soundDepth === 16
  if (!asked || !(finer || downmix || gain !== 0)) return block
  const clock = new SampleClock(item.output, item.region, item.timeline.rate, sampleRate)
  const parts = clock.parts(from, count)
  return block.map((c, i) => {
    if (!downmix && item.route[i]! < 0) return c
    const out = c.slice()
    let at = 0
    for (const part of parts) {
      const own = c.subarray(at, at + part.count)
      if (!isMade(part.section)) out.set(dithered(own, soundDepth, part.from, i), at)
      at += part.count
    }
    return out
  })
}
