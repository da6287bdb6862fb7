import type { Samples } from '../time/rate'

/** Hz; a second has a whole number of its periods at every rate, so that it begins and ends where it crosses zero. */
const pitch = 1000

/** Samples [from, from + count) of the line-up tone; `level`: its peak in dBFS, as EBU R 68 counts (0: full scale). */
export function toneSamples(level: number, from: Samples, count: Samples, sampleRate: number): Float32Array {
  const peak = 10 ** (level / 20)
  const out = new Float32Array(count)
  // counted within a second, so that the last of an hour is as exact as the first
  for (let i = 0; i < count; i++)
    out[i] = peak * Math.sin((2 * Math.PI * pitch * ((from + i) % sampleRate)) / sampleRate)
  return out
}
