/** A format of still images that a run of numbered files can be made of. */
export interface StillFormat {
  /** What its pictures are said to be: `png`, `dpx`. */
  readonly codec: string
  readonly label: string
  readonly extensions: readonly string[]
}

/** Still images that are read: a new one is a line here, and its reader where stills are read. */
export const stillFormats: StillFormat[] = [
  { codec: 'png', label: 'PNG', extensions: ['.png'] },
  { codec: 'jpeg', label: 'JPEG', extensions: ['.jpg', '.jpeg'] },
  { codec: 'tiff', label: 'TIFF', extensions: ['.tif', '.tiff'] },
  { codec: 'dpx', label: 'DPX', extensions: ['.dpx'] },
]

/** The format a file's name says it is; null when it is none of ours. */
export function stillFormatOf(name: string): StillFormat | null {
  const lower = name.toLowerCase()
  return stillFormats.find((f) => f.extensions.some((e) => lower.endsWith(e))) ?? null
}
