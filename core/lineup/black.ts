import { blackPicture } from '../picture/picture'
import type { SectionKind } from './section'

/** Black and silence. */
export const black: SectionKind = {
  kind: 'black',
  label: 'black',
  which: () => 0,
  draw: (_, { width, height, chroma, bitDepth }) => blackPicture(width, height, chroma, bitDepth),
  sound: null,
}
