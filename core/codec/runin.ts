import type { Samples } from '../time/rate'
import type { EncodedUnit, Encoder } from './codec'

/** How a coder of sound is led in and out, in packets. */
interface RunIn {
  readonly packetSamples: Samples
  /** Samples that a coder gives before the first one it was fed. */
  readonly priming: Samples
  readonly before: number
  readonly after: number
}

type Sound = readonly Float32Array[]

/** Which of `length` samples stands `at` samples behind a mirror at their end, and another at their other end. */
const folded = (at: Samples, length: Samples) => {
  const k = at % (2 * length)
  return k < length ? k : 2 * length - 1 - k
}

const leadIn = (sound: Sound, count: Samples) =>
  sound.map((c) => Float32Array.from({ length: count }, (_, i) => c[folded(count - 1 - i, c.length)]!))

const leadOut = (sound: Sound, count: Samples) =>
  sound.map((c) => Float32Array.from({ length: count }, (_, i) => c[c.length - 1 - folded(i, c.length)]!))

const joined = (a: Sound, b: Sound): Float32Array[] =>
  a.map((c, i) => {
    const out = new Float32Array(c.length + b[i]!.length)
    out.set(c)
    out.set(b[i]!, c.length)
    return out
  })

/**
 * A coder of sound that is led in by what it begins with, turned over in time, and led out by what it ends with.
 * Sound that is cut begins at once, where a coder expects silence: what it spends on that step and has not yet learned
 * of its rate would be heard as a click. Packets of what leads in and out are dropped, so that as many are left, and
 * in the same places, as without.
 */
export function withRunIn(coder: Encoder<Float32Array[]>, way: RunIn): Encoder<Float32Array[]> {
  const { packetSamples, priming, before, after } = way
  let samples: Samples = 0
  let first: Sound | null = null
  let last: Sound = []
  let begun = false
  let ended = false
  let [dropped, given] = [0, 0]
  const begin = async () => {
    begun = true
    if (!first) return
    await coder.feed(leadIn(first, before * packetSamples))
    await coder.feed([...first])
    first = null
  }
  return {
    async feed(block) {
      samples += block[0]?.length ?? 0
      last = last.length ? joined(last, block) : block
      last = last.map((c) => c.slice(-after * packetSamples))
      if (begun) return coder.feed(block)
      first = first ? joined(first, block) : block
      if (samples >= before * packetSamples) await begin()
    },
    take() {
      const units: EncodedUnit[] = coder.take()
      const skipped = Math.min(units.length, before - dropped)
      dropped += skipped
      const most = ended ? Math.ceil((samples + priming) / packetSamples) - given : units.length
      const ready = units.slice(skipped, skipped + most)
      given += ready.length
      return ready
    },
    async flush() {
      if (!begun) await begin()
      if (samples > 0) await coder.feed(leadOut(last, after * packetSamples))
      await coder.flush()
      ended = true
    },
    configuration: () => coder.configuration(),
    close: () => coder.close(),
  }
}
