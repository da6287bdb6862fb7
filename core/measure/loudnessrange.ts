import { said, tenths, type Measure } from './measure'

/** Loudness range, LU (EBU Tech 3342). */
export const loudnessRange: Measure = {
  name: 'loudness-range',
  label: 'Loudness range',
  group: 'sound',
  unit: ' LU',
  read: ({ sound }) => (sound && sound.range !== null ? said(sound.range, tenths(sound.range, 'LU')) : null),
}
