import { countsSamples, traceRate } from '../time/rate'
import { codedWithin, faultsWithin, soundFaults } from './soundfaults'
import { soundStretches, troubleOf, type SoundTrouble } from './soundstretches'
import { soundReader, SoundTracer, type SoundReader, type SoundShape } from './soundtrace'

/** What one pass over the sound of a file or of a deliverable gives. */
export interface SoundMeter extends Omit<SoundReader, 'feed' | 'begin' | 'pause'> {
  feed(block: readonly Float32Array[]): void
  /** What a person should listen to, in frames of the stretch. */
  trouble(): SoundTrouble
}

/**
 * Every measure of a stretch of sound that begins at frame `first` of its timeline, whose rate `asked` has, fed with
 * blocks of its channels. The first reading ends it.
 */
export function soundMeter(asked: SoundShape, layout: string | null, first = 0): SoundMeter {
  const shape = { ...asked, rate: traceRate(asked.rate) }
  // sound alone is traced as if it began with the stretch: its samples are no whole frames of a trace
  const tracer = new SoundTracer(shape, countsSamples(asked.rate) ? 0 : first, false)
  const all = Array.from({ length: shape.channels }, (_, c) => c)
  const reader = soundReader(shape, all, layout)
  const stretches = soundStretches(shape, all, layout)
  let fed = 0
  const faults = soundFaults(shape.channels, shape.sampleRate)
  const read = () => {
    for (const row of tracer.rows()) {
      reader.feed(row)
      stretches.feed(row)
    }
  }
  const end =
    <T>(of: () => T) =>
    () => {
      tracer.finish()
      read()
      return of()
    }
  return {
    feed(block) {
      tracer.feed(block)
      faults.feed(block)
      fed += block[0]?.length ?? 0
      read()
    },
    result: end(() => reader.result(codedWithin(faults.result(), { in: 0, out: fed }))),
    ribbon: end(() => reader.ribbon()),
    momentary: end(() => reader.momentary()),
    trouble: end(() =>
      troubleOf(stretches.result(), faultsWithin(faults.result(), { in: 0, out: fed }), shape, first, asked.rate),
    ),
  }
}
