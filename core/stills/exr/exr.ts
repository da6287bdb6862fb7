import { systems } from '../../media/colour'
import { statedBy, type StillFormat, type StillWriting } from '../still'
import { moved } from './move'
import { readExr } from './read'
import { hasTime, writeExr } from './write'

const writing = (name: string, words: string, compression: number): StillWriting => ({
  name,
  label: `OpenEXR, 16 bit floating point, ${words}`,
  bitDepth: 16,
  states: statedBy(systems),
  bytes: (width, height) => width * height * 6 + height * 16 + 4096,
  keepsBeyond: true,
  write: (picture, told, library) => writeExr(picture, told, compression, library),
})

/** OpenEXR (openexr.com, “OpenEXR File Layout”): light, not signal; one part in scan lines. */
export const exr: StillFormat = {
  codec: 'exr',
  label: 'OpenEXR',
  extensions: ['.exr'],
  tells: (rate) => ['rate', 'shape', ...(hasTime(rate) ? (['timecode', 'dropped'] as const) : [])],
  read: readExr,
  moved,
  writes: [writing('exr-zip', 'ZIP', 3), writing('exr-none', 'not compressed', 0)],
}
