import type { Scan } from './media'

/** Whether pictures are made of two fields that were taken at different times. */
export const hasFields = (scan: Scan): boolean => scan.startsWith('interlaced')
