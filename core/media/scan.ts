import { z } from 'zod'
import type { MediaInfo, Scan, VideoInfo } from './media'

export const scanSchema = z.enum([
  'progressive',
  'segmented',
  'interlaced-tff',
  'interlaced-bff',
  'interlaced',
]) satisfies z.ZodType<Scan>

/** Whether pictures are made of two fields that were taken at different times. */
export const hasFields = (scan: Scan): boolean => scan.startsWith('interlaced')

/** Whether it is told which field comes first. */
export const hasOrder = (scan: Scan): boolean => hasFields(scan) && scan !== 'interlaced'

const labels: Readonly<Record<Scan, string>> = {
  progressive: 'progressive',
  segmented: 'segmented frames (PsF)',
  'interlaced-tff': 'interlaced, top field first',
  'interlaced-bff': 'interlaced, bottom field first',
  interlaced: 'interlaced, order not said',
}

/** A scan in words; one that is none of ours as it is. */
export const scanText = (scan: string): string => labels[scan as Scan] ?? scan

/** Media whose pictures are what a person says, whatever its file says of them; without a word, as the file says. */
export function takenAs(info: MediaInfo, scan: Scan | undefined): MediaInfo {
  const [v, ...others] = info.video
  const told = !v?.untold?.includes('scan')
  if (!v || !scan || (told && v.scan === scan)) return info
  const { untold, ...rest } = v
  const still = (untold ?? []).filter((trait) => trait !== 'scan')
  const taken: VideoInfo = { ...rest, scan, labelled: told ? v.scan : null, ...(still.length ? { untold: still } : {}) }
  const problems = info.problems.filter((p) => p.code !== 'media.scan-untold')
  return { ...info, problems, video: [taken, ...others] }
}

/** What a file itself says of its pictures: a copy of them says no other. */
export function asLabelled({ labelled, ...v }: VideoInfo): VideoInfo {
  if (labelled === undefined) return v
  return labelled ? { ...v, scan: labelled } : { ...v, scan: 'progressive', untold: [...(v.untold ?? []), 'scan'] }
}

/** What has to be said of media besides its file, for its pictures to be taken so again. */
export const saidOf = ({ video: [v] }: Pick<MediaInfo, 'video'>): { readonly scan?: Scan } =>
  v && v.labelled !== undefined ? { scan: v.scan } : {}
