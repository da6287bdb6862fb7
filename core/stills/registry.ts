import { fail } from '../problem'
import { jpeg, png, tiff } from './common'
import { dpx } from './dpx'
import { exr } from './exr/exr'
import type { StillFormat, StillWriting } from './still'

/** Formats of still images that are read and written: a new one is its file and its line here. */
export const stillFormats: StillFormat[] = [dpx, exr, tiff, png, jpeg]

/** The format a file's name says it is; null when it is none of ours. */
export function stillFormatOf(name: string): StillFormat | null {
  const lower = name.toLowerCase()
  return stillFormats.find((f) => f.extensions.some((e) => lower.endsWith(e))) ?? null
}

/** Every way stills are written, each with its format. */
export function stillWritings(): (readonly [StillFormat, StillWriting])[] {
  return stillFormats.flatMap((f) => f.writes.map((w) => [f, w] as const))
}

/** The way of writing that goes by a name, with its format. */
export function stillWriting(name: string): readonly [StillFormat, StillWriting] {
  return (
    stillWritings().find(([, w]) => w.name === name) ??
    fail('stills.unknown', `Stills of kind “${name}” are not written here.`, name, 'Choose another format.')
  )
}
