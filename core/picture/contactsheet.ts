import { drawText, fillRect, glyphAt } from './burnin'
import { blackPicture, toChroma422, toDepth, type Picture } from './picture'
import { fitPicture } from './scale'

/** A picture of a sheet, and what stands below it. */
export interface SheetPicture {
  readonly picture: Picture
  readonly label: string
}

/** Pixels: pictures across, their width, the gap between them, and lines of text. */
const columns = 4
const tileWidth = 480
const gap = 16
const titleSize = 36
const textSize = 24

/** 8-bit codes of the ground, a deep grey without colour. */
const ground = [30, 128, 128] as const

const even = (v: number) => Math.round(v / 2) * 2
const cut = (text: string, size: number, width: number) => text.slice(0, Math.floor(width / glyphAt(48, size).width))

/**
 * Pictures in rows of four with their labels, below a title and lines of text: 8 bit, 4:2:2. `aspect` is that of the
 * pixels of the pictures, which are all of one raster; letters that cannot be drawn are left out by the caller.
 */
export function contactSheet(
  title: string,
  lines: readonly string[],
  pictures: readonly SheetPicture[],
  aspect: number,
): Picture {
  const [first] = pictures as [SheetPicture]
  const { width, height } = first.picture
  const tileHeight = even((tileWidth * height) / (width * aspect))
  const across = Math.min(columns, pictures.length)
  // room for a title, however few pictures there are
  const sheetWidth = gap + columns * (tileWidth + gap)
  const head = gap + titleSize + lines.length * textSize + gap
  const rowHeight = even(tileHeight + textSize + gap)
  const sheetHeight = even(head + Math.ceil(pictures.length / across) * rowHeight)
  const sheet = blackPicture(sheetWidth, sheetHeight, '4:2:2', 8)
  fillRect(sheet, 0, 0, sheetWidth, sheetHeight, ground)
  const inner = sheetWidth - 2 * gap
  drawText(sheet, cut(title, titleSize, inner), gap, gap, titleSize)
  lines.forEach((line, i) =>
    drawText(sheet, cut(line, textSize, inner), gap, gap + titleSize + i * textSize, textSize, 180),
  )
  pictures.forEach(({ picture, label }, i) => {
    const left = gap + (i % across) * (tileWidth + gap)
    const top = even(head + Math.floor(i / across) * rowHeight)
    const raster = { width: tileWidth, height: tileHeight, fit: 'stretch', aspect } as const
    lay(sheet, toChroma422(toDepth(fitPicture(picture, raster), 8)), left, top)
    drawText(sheet, cut(label, textSize, tileWidth), left, top + tileHeight, textSize, 200)
  })
  return sheet
}

/** Copies a picture into a sheet, to whole chroma samples. */
function lay(sheet: Picture, tile: Picture, left: number, top: number): void {
  tile.planes.forEach((plane, k) => {
    const to = sheet.planes[k]!
    const [width, stride, x] = k === 0 ? [tile.width, sheet.width, left] : [tile.width / 2, sheet.width / 2, left / 2]
    for (let y = 0; y < tile.height; y++) to.set(plane.subarray(y * width, (y + 1) * width), (top + y) * stride + x)
  })
}
