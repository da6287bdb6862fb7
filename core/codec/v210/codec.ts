import type { EncodedUnit, PictureCodec } from '../codec'
import { plainPictures } from '../plain'
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
    chroma: '4:2:2',
    bitDepth: 10,
    profile: null,
    frameBytes: v210Size,
    open({ width, height }) {
      // one buffer serves all pictures: what was taken is written before the next is fed
      const buffer = new Uint8Array(v210Size(width, height))
      let ready: EncodedUnit[] = []
      return {
        feed(picture) {
          ready.push({ bytes: encodeV210(picture, buffer), sync: true })
          return Promise.resolve()
        },
        take() {
          const units = ready
          ready = []
          return units
        },
        flush: () => Promise.resolve(),
        configuration: () => null,
        close: () => undefined,
      }
    },
  },
}
