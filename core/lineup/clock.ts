import { drawText } from '../picture/burnin'
import { blackPicture, type Picture } from '../picture/picture'
import { plainText } from '../text'
import type { SectionKind } from './section'

/** 8-bit codes of luma: the dial, what is written small, and what is written large. */
const [dial, small, large] = [180, 160, 235] as const

/** How far a point is from a stretch of a straight line. */
function fromLine(x: number, y: number, ax: number, ay: number, bx: number, by: number): number {
  const [dx, dy] = [bx - ax, by - ay]
  const along = Math.max(0, Math.min(1, ((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy)))
  return Math.hypot(x - ax - along * dx, y - ay - along * dy)
}

/** The dial with its hand as many seconds before the full minute as are left, drawn with soft edges into luma. */
function drawDial(p: Picture, cx: number, cy: number, radius: number, left: number): void {
  const [Y] = p.planes
  const unit = 1 << (p.bitDepth - 8)
  const thin = Math.max(1, radius / 60)
  const turn = (-left / 60) * 2 * Math.PI
  const [hx, hy] = [cx + Math.sin(turn) * radius * 0.82, cy - Math.cos(turn) * radius * 0.82]
  for (let y = Math.floor(cy - radius - thin * 2); y <= cy + radius + thin * 2; y++) {
    for (let x = Math.floor(cx - radius - thin * 2); x <= cx + radius + thin * 2; x++) {
      const away = Math.hypot(x - cx, y - cy)
      // marks of seconds stand every six degrees; longer and thicker every fifth
      const second = Math.round((Math.atan2(x - cx, cy - y) / (2 * Math.PI)) * 60)
      const at = (second / 60) * 2 * Math.PI
      const long = second % 5 === 0
      const inner = radius * (long ? 0.86 : 0.92)
      const mark = fromLine(
        ...([x, y, cx + Math.sin(at) * inner, cy - Math.cos(at) * inner] as const),
        ...([cx + Math.sin(at) * radius * 0.97, cy - Math.cos(at) * radius * 0.97] as const),
      )
      const hand = fromLine(x, y, cx, cy, hx, hy) - thin * 2.2
      const plate = Math.min(Math.abs(away - radius) - thin, mark - (long ? thin * 1.6 : thin * 0.8))
      const shade = (distance: number, level: number) => Math.max(0, Math.min(1, 0.5 - distance)) * (level - 16)
      const lit = 16 + Math.max(shade(plate, dial), shade(Math.min(hand, away - thin * 5), large))
      if (lit > 16) Y[y * p.width + x] = Math.round(lit * unit)
    }
  }
}

/** Text in lines of at most so many letters, broken between words where it can be. */
function wrapped(text: string, most: number): string[] {
  const lines: string[] = []
  for (let rest = text.trim(); rest;) {
    const space = rest.lastIndexOf(' ', most)
    const end = rest.length <= most ? rest.length : space > 0 ? space : most
    lines.push(rest.slice(0, end))
    rest = rest.slice(end).trim()
  }
  return lines
}

/** A clock that counts the seconds down to the programme, beside what the programme is. */
export const clock: SectionKind = {
  kind: 'clock',
  label: 'clock',
  square: true,
  which: (left) => left,
  draw(left, { width, height, chroma, bitDepth }, told) {
    const p = blackPicture(width, height, chroma, bitDepth)
    // all of it within the graphics safe area of EBU R 95
    const [margin, middle] = [Math.round(width * 0.06), Math.round(height / 2)]
    const radius = Math.round(height * 0.3)
    drawDial(p, width - margin - radius, middle, radius, left)
    const big = Math.round(height / 7)
    const count = String(left)
    const centred = width - margin - radius - Math.round((count.length * big * 20) / 72)
    drawText(p, count, centred, middle + Math.round(radius * 0.28), big)
    const room = width - 2 * margin - 2 * radius - margin
    const size = Math.round(height / 22)
    const named = Math.round(size * 0.8)
    const most = (lines: number) => Math.floor(room / ((lines * 20) / 36))
    const fit = (text: string, lines: number) => plainText(text).slice(0, most(lines))
    const title = Math.round(height / 16)
    let top = Math.round(height * 0.18)
    drawText(p, fit(told.show, named), margin, top, named, small)
    top += Math.round(named * 1.1)
    for (const line of wrapped(plainText(told.title), most(title)).slice(0, 2)) {
      drawText(p, line, margin, top, title)
      top += Math.round(title * 1.1)
    }
    top += Math.round(title * 0.5)
    for (const [name, value] of told.lines) {
      drawText(p, fit(name, named), margin, top, named, small)
      drawText(p, fit(value, size), margin, top + named, size)
      top += Math.round(named + size * 1.45)
    }
    return p
  },
  sound: null,
}
