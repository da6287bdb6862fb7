import { ofPictures, said, wanted } from '../measure'
import { namedWords } from '../words'

/** Pictures by samples and lines. Its value is `1920x1080`. */
export const raster = ofPictures(
  'raster',
  'Raster',
  (v) => said(rasterValue(v.width, v.height), `${v.width}×${v.height}`),
  {
    words: namedWords((size) => size.replace('x', '×')),
    means: (size) => (typeof size === 'string' ? size.replace(/^(\d+)\s*[x×]\s*(\d+)$/i, '$1x$2') : size),
    fix({ expect, recipe }) {
      const size = parseRaster(wanted(expect))
      return size && { ...size, fit: recipe.fit === 'unscaled' ? 'letterbox' : recipe.fit }
    },
  },
)

const rasterValue = (width: number, height: number) => `${width}x${height}`

/** What a value of this measure says. */
function parseRaster(value: unknown): { width: number; height: number } | null {
  const m = typeof value === 'string' ? /^(\d+)x(\d+)$/.exec(value) : null
  return m ? { width: Number(m[1]), height: Number(m[2]) } : null
}
