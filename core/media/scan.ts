import type { Scan } from './media'

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
