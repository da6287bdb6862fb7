import { fail } from '../problem'
import { quantised, signalOf, type StillFormat, type StillWriting } from './still'

// Formats of still images that every tool knows: a library reads and writes them.

/** Bytes for what stands beside the samples. TIFF is not compressed. */
const room = 65_536

type Kind = 'png' | 'tiff' | 'jpeg'

const writing = (kind: Kind, label: string, bitDepth: 8 | 16): StillWriting => ({
  name: `${kind}-${bitDepth}`,
  label: `${label}, ${bitDepth} bit R′G′B′`,
  bitDepth,
  states: () => null,
  bytes: (width, height) => Math.ceil((width * height * 3 * bitDepth) / 8) + room,
  ...(kind === 'tiff' ? { bytesOff: room } : {}),
  write: (picture, _told, library) =>
    library.encode(kind, {
      ...{ width: picture.width, height: picture.height },
      samples: quantised(picture, bitDepth),
    }),
})

const format = (
  kind: Kind,
  label: string,
  extensions: readonly string[],
  depths: readonly (8 | 16)[],
): StillFormat => ({
  ...{ codec: kind, label, extensions },
  tells: () => [],
  async read(bytes, name, library) {
    try {
      const { alpha, bitDepth, notes, ...image } = await library.decode(bytes)
      const { width, height } = image
      const head = {
        width,
        height,
        bitDepth,
        alpha,
        notes,
        reel: '',
        dropFrame: false,
        interlaced: null,
        pixelAspect: null,
        rate: null,
        timecode: null,
        colour: null,
      }
      return { head, picture: signalOf(image, bitDepth) }
    } catch (e) {
      return fail(
        'stills.undecodable',
        `A still cannot be read: ${(e as Error).message.split('\n')[0]!.slice(0, 120)}`,
        name,
        'Copy it again, or ask for it anew.',
      )
    }
  },
  writes: depths.map((d) => writing(kind, label, d)),
})

export const png = format('png', 'PNG', ['.png'], [8, 16])
export const jpeg = format('jpeg', 'JPEG', ['.jpg', '.jpeg'], [8])
export const tiff = format('tiff', 'TIFF', ['.tif', '.tiff'], [8, 16])
