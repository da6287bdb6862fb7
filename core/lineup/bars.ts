import type { LumaWeights } from '../media/colour'
import { drawText, fillRect } from '../picture/burnin'
import { emptyPicture, type Picture } from '../picture/picture'
import { plainText } from '../text'
import type { LineUpShape, SectionKind } from './section'
import { toneSamples } from './tone'

/** R′ G′ B′ of 100/0/75/0 colour bars (ITU-R BT.471 nomenclature), from left to right. */
const colours = [
  [1, 1, 1],
  [0.75, 0.75, 0],
  [0, 0.75, 0.75],
  [0, 0.75, 0],
  [0.75, 0, 0.75],
  [0.75, 0, 0],
  [0, 0, 0.75],
  [0, 0, 0],
] as const

/** Codes of luma, Cb and Cr in narrow range (ITU-R BT.709-6, 3 and 4; BT.601-7, 2.5). */
export function barCodes(
  [r, g, b]: readonly [number, number, number],
  bitDepth: 8 | 10,
  [kr, kb]: LumaWeights,
): [number, number, number] {
  const luma = kr * r + (1 - kr - kb) * g + kb * b
  const unit = 1 << (bitDepth - 8)
  return [
    Math.round((16 + 219 * luma) * unit),
    Math.round((128 + (224 * (b - luma)) / (2 * (1 - kb))) * unit),
    Math.round((128 + (224 * (r - luma)) / (2 * (1 - kr))) * unit),
  ]
}

/** Colour bars over the whole raster, edges on whole pairs of samples. */
function drawBars(shape: LineUpShape): Picture {
  const p = emptyPicture(shape.width, shape.height, shape.chroma, shape.bitDepth)
  p.planes.forEach((plane, i) => {
    const width = i === 0 ? p.width : (p.width + 1) >> 1
    const line = plane.slice(0, width)
    colours.forEach((colour, k) => {
      const [from, to] = [k, k + 1].map((n) => Math.round((n * p.width) / colours.length / 2)) as [number, number]
      line.fill(barCodes(colour, p.bitDepth, shape.weights)[i]!, i === 0 ? from * 2 : from, i === 0 ? to * 2 : to)
    })
    for (let at = 0; at < plane.length; at += width) plane.set(line, at)
  })
  return p
}

/** Colour bars with an ident, and the line-up tone. */
export const bars: SectionKind = {
  kind: 'bars',
  label: 'bars and tone',
  which: () => 0,
  draw(_, shape, told, { level = 0 }) {
    const p = drawBars(shape)
    const size = Math.round(shape.height / 20)
    const cell = (size * 20) / 36
    const most = Math.floor((shape.width * 0.8) / cell)
    const lines = [plainText(`${told.show}: ${told.title}`).slice(0, most), `1 kHz  ${level} dBFS`]
    const width = (Math.max(...lines.map((l) => l.length)) + 2) * cell
    const left = ((shape.width - width) >> 2) * 2
    const top = Math.round(shape.height * 0.7)
    fillRect(p, left, top, Math.round(width), size * 3, [16, 128, 128])
    lines.forEach((text, i) =>
      drawText(
        p,
        text,
        Math.round(shape.width / 2 - (text.length * cell) / 2),
        top + Math.round((i ? 1.6 : 0.4) * size),
        size,
      ),
    )
    return p
  },
  sound: ({ level }, from, count, sampleRate) =>
    level === undefined ? new Float32Array(count) : toneSamples(level, from, count, sampleRate),
}
