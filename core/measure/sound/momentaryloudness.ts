import { ofLoudness } from './loudness'

/** The loudest 0.4 s, LUFS (EBU Tech 3341). */
export const momentaryLoudness = ofLoudness(
  'momentary-loudness',
  'Loudest 0.4 s',
  ({ momentaryMax }) => momentaryMax,
  'it is shorter than 0.4 s',
)
