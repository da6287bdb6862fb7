import { blackPicture, type Picture } from '../core/picture/picture'
import { drawText, fillRect } from '../core/picture/burnin'

export type Point = readonly [x: number, y: number]

/** A flat painter on a 4:2:0 picture. Coordinates run 0…1600 across and 0…900 down, whatever the raster. */
export class Painter {
  readonly picture: Picture
  private readonly scale: number

  constructor(width: number, height: number) {
    this.picture = blackPicture(width, height, '4:2:0', 8)
    this.scale = width / 1600
  }

  /** BT.709 narrow-range codes of `#rrggbb`. */
  static code(colour: string): [number, number, number] {
    const v = Number.parseInt(colour.slice(1), 16)
    const [r, g, b] = [(v >> 16) / 255, ((v >> 8) & 255) / 255, (v & 255) / 255]
    const y = 0.2126 * r + 0.7152 * g + 0.0722 * b
    return [
      Math.round(16 + 219 * y),
      Math.round(128 + (224 * (b - y)) / 1.8556),
      Math.round(128 + (224 * (r - y)) / 1.5748),
    ]
  }

  private span(
    y: number,
    x0: number,
    x1: number,
    [cy, cu, cv]: readonly [number, number, number],
    alpha: number,
  ): void {
    const {
      width,
      planes: [Y, U, V],
    } = this.picture
    const a = Math.max(0, x0)
    const b = Math.min(width, x1)
    if (b <= a) return
    const from = Math.floor(a)
    const to = Math.min(width, Math.ceil(b))
    const row = y * width
    if (alpha === 1) {
      Y.fill(cy, row + Math.ceil(a), row + Math.max(Math.ceil(a), Math.floor(b)))
      for (const [x, cover] of [
        [from, Math.min(1, Math.ceil(a) - a)],
        [to - 1, b - Math.floor(b)],
      ] as const)
        if (cover > 0 && cover < 1) Y[row + x] = Y[row + x]! + (cy - Y[row + x]!) * cover
    } else for (let x = from; x < to; x++) Y[row + x] = Y[row + x]! + (cy - Y[row + x]!) * alpha
    if (y % 2 === 0) {
      const crow = (y >> 1) * ((width + 1) >> 1)
      if (alpha === 1) {
        U.fill(cu, crow + (from >> 1), crow + ((to + 1) >> 1))
        V.fill(cv, crow + (from >> 1), crow + ((to + 1) >> 1))
      } else {
        for (let x = from >> 1; x < (to + 1) >> 1; x++) {
          U[crow + x] = U[crow + x]! + (cu - U[crow + x]!) * alpha
          V[crow + x] = V[crow + x]! + (cv - V[crow + x]!) * alpha
        }
      }
    }
  }

  rect(x: number, y: number, w: number, h: number, colour: string, alpha = 1): void {
    const c = Painter.code(colour)
    for (
      let row = Math.max(0, Math.round(y * this.scale));
      row < Math.min(this.picture.height, Math.round((y + h) * this.scale));
      row++
    )
      this.span(row, x * this.scale, (x + w) * this.scale, c, alpha)
  }

  /** A vertical blend of two colours over the whole width. */
  blend(y0: number, y1: number, from: string, to: string): void {
    const [a, b] = [Painter.code(from), Painter.code(to)]
    const top = Math.round(y0 * this.scale)
    const bottom = Math.min(this.picture.height, Math.round(y1 * this.scale))
    for (let row = top; row < bottom; row++) {
      const t = (row - top) / Math.max(1, bottom - top)
      this.span(
        row,
        0,
        this.picture.width,
        [0, 1, 2].map((i) => Math.round(a[i]! + (b[i]! - a[i]!) * t)) as [number, number, number],
        1,
      )
    }
  }

  polygon(points: readonly Point[], colour: string, alpha = 1): void {
    const c = Painter.code(colour)
    const s = this.scale
    const top = Math.max(0, Math.floor(Math.min(...points.map((p) => p[1])) * s))
    const bottom = Math.min(this.picture.height, Math.ceil(Math.max(...points.map((p) => p[1])) * s))
    for (let row = top; row < bottom; row++) {
      const y = row + 0.5
      const hits: number[] = []
      for (let i = 0; i < points.length; i++) {
        const [x0, y0] = [points[i]![0] * s, points[i]![1] * s]
        const [x1, y1] = [points[(i + 1) % points.length]![0] * s, points[(i + 1) % points.length]![1] * s]
        if (y0 <= y !== y1 <= y) hits.push(x0 + ((y - y0) * (x1 - x0)) / (y1 - y0))
      }
      hits.sort((p, q) => p - q)
      for (let i = 0; i + 1 < hits.length; i += 2) this.span(row, hits[i]!, hits[i + 1]!, c, alpha)
    }
  }

  ellipse(cx: number, cy: number, rx: number, ry: number, colour: string, alpha = 1): void {
    const c = Painter.code(colour)
    const s = this.scale
    for (
      let row = Math.max(0, Math.floor((cy - ry) * s));
      row < Math.min(this.picture.height, Math.ceil((cy + ry) * s));
      row++
    ) {
      const t = ((row + 0.5) / s - cy) / ry
      if (Math.abs(t) >= 1) continue
      const half = rx * Math.sqrt(1 - t * t)
      this.span(row, (cx - half) * s, (cx + half) * s, c, alpha)
    }
  }

  circle(cx: number, cy: number, r: number, colour: string, alpha = 1): void {
    this.ellipse(cx, cy, r, r, colour, alpha)
  }

  line(x0: number, y0: number, x1: number, y1: number, thick: number, colour: string): void {
    const length = Math.hypot(x1 - x0, y1 - y0) || 1
    const [nx, ny] = [((y1 - y0) / length) * (thick / 2), (-(x1 - x0) / length) * (thick / 2)]
    this.polygon(
      [
        [x0 + nx, y0 + ny],
        [x1 + nx, y1 + ny],
        [x1 - nx, y1 - ny],
        [x0 - nx, y0 - ny],
      ],
      colour,
    )
  }

  text(text: string, x: number, y: number, size: number, white = 235): void {
    drawText(
      this.picture,
      text,
      Math.round(x * this.scale),
      Math.round(y * this.scale),
      Math.max(8, Math.round(size * this.scale)),
      white,
    )
  }

  /** A dark box for text. */
  box(x: number, y: number, w: number, h: number): void {
    const even = (v: number) => Math.round((v * this.scale) / 2) * 2
    fillRect(this.picture, even(x), even(y), even(w), even(h), [22, 130, 126])
  }
}
