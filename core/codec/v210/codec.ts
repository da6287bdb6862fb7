import type { PictureCodec } from '../codec'
import { plainEncoder, plainPictures } from '../plain'
import { decodeV210, encodeV210, v210Size } from './v210'

/** 4:2:2 10 bit, uncompressed, three samples in each 32-bit word. */
export const v210: PictureCodec = {
  name: 'v210',
  label: 'uncompressed 4:2:2 10 bit',
  calls: { mp4: { entries: ['v210'], brands: ['mov'] } },
  describe: () => ({ chroma: '4:2:2', bitDepth: 10 }),
  decode: plainPictures(v210Size, decodeV210),
  encode: {
    needsWeb: false,
    bitDepth: 10,
    as: () => ({ chroma: '4:2:2', profile: null, level: null }),
    frameBytes: ({ width, height }) => v210Size(width, height),
    open({ width, height }) {
      // two buffers serve all pictures in turns: one may still be written while the next picture is fed
      const buffers = [0, 1].map(() => new Uint8Array(v210Size(width, height)))
      let fed = 0
      return plainEncoder((picture) => encodeV210(picture, buffers[fed++ % 2]))
    },
  },
}
