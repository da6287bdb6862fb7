/** Ways to make a deliverable to look at before it is made in earnest: by how much each side of it is divided. */
export const trials = [
  ['no', 1, 'no'],
  ['whole', 1, 'whole size'],
  ['half', 2, 'half size'],
  ['quarter', 4, 'a quarter of its size'],
  ['eighth', 8, 'an eighth of its size'],
] as const
export const trialNames = trials.map(([name]) => name)
export type Trial = (typeof trialNames)[number]

/** Where trials go, below their outlet's folder: nobody takes one for the delivery. */
export const trialFolder = 'Trials'

export const isTrial = ({ trial }: { readonly trial: Trial }): boolean => trial !== 'no'

/** In words; of what is no trial, as a recipient's rules may say, the word itself. */
export const trialText = (trial: string): string => trials.find(([name]) => name === trial)?.[2] ?? trial

const partsOf = (trial: Trial) => trials.find(([name]) => name === trial)![1]

/** A side of a raster as a trial has it: even, or a multiple of four where it counts the lines of two fields. */
export function trialSide(side: number, trial: Trial, fields = false): number {
  const unit = fields ? 4 : 2
  return trial === 'no' ? side : Math.max(16, Math.round(side / partsOf(trial) / unit) * unit)
}

interface TrialBits {
  readonly trial: Trial
  readonly pictureBitrate: number
}

/** kbit/s of coded pictures: a trial has half of what its size would have. */
export function pictureKilobits({ trial, pictureBitrate }: TrialBits): number {
  return trial === 'no' ? pictureBitrate : Math.max(100, Math.round(pictureBitrate / partsOf(trial) ** 2 / 2))
}
