import { ofLoudness } from './loudness'

/** The loudest three seconds, LUFS (EBU Tech 3341). */
export const shortTermLoudness = ofLoudness(
  'short-term-loudness',
  'Loudest 3 s',
  ({ shortTermMax }) => shortTermMax,
  'there are no 3 s of sound',
)
