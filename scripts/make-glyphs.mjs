// Draws the printable ASCII characters of Red Hat Mono into core/picture/glyphs.ts, once: run after changing the size.
import { readFileSync, writeFileSync } from 'node:fs'
import opentype from 'opentype.js'
import { inflateSync } from 'node:zlib'

const cell = { width: 20, height: 36, baseline: 27 }
const woff = readFileSync(process.argv[2])
const font = opentype.parse(unwrapWoff(woff))
const size = 32
const advance = (font.charToGlyph('0').advanceWidth * size) / font.unitsPerEm
const sub = 8
const out = Buffer.alloc(((cell.width * cell.height) / 2) * 95)
for (let c = 32; c < 127; c++) {
  const path = font.charToGlyph(String.fromCharCode(c)).getPath((cell.width - advance) / 2, cell.baseline, size)
  const edges = flatten(path.commands)
  for (let y = 0; y < cell.height; y++) {
    const cover = new Float64Array(cell.width)
    for (let s = 0; s < sub; s++) {
      const yy = y + (s + 0.5) / sub
      const hits = []
      for (const [x0, y0, x1, y1] of edges)
        if (y0 <= yy !== y1 <= yy) hits.push([x0 + ((yy - y0) * (x1 - x0)) / (y1 - y0), y1 > y0 ? 1 : -1])
      hits.sort((a, b) => a[0] - b[0])
      let wind = 0
      for (let i = 0; i + 1 < hits.length; i++) {
        wind += hits[i][1]
        if (wind)
          for (let x = Math.max(0, Math.floor(hits[i][0])); x < Math.min(cell.width, Math.ceil(hits[i + 1][0])); x++)
            cover[x] += Math.max(0, Math.min(x + 1, hits[i + 1][0]) - Math.max(x, hits[i][0])) / sub
      }
    }
    for (let x = 0; x < cell.width; x++) {
      const v = Math.min(15, Math.round(cover[x] * 15))
      const at = (c - 32) * cell.width * cell.height + y * cell.width + x
      out[at >> 1] |= at & 1 ? v : v << 4
    }
  }
}
const lines = out.toString('base64').match(/.{1,112}/g)
writeFileSync(
  new URL('../core/picture/glyphs.ts', import.meta.url),
  `import { fromBase64 } from '../bytes'

/**
 * Printable ASCII of Red Hat Mono (SIL Open Font Licence) as coverage, 4 bits a pixel, made by scripts/make-glyphs.mjs.
 * Character c begins at pixel (c − 32) · width · height.
 */
export const glyphCell = { width: ${cell.width}, height: ${cell.height} } as const

const packed = fromBase64(
  [
${lines.map((line) => `    '${line}',`).join('\n')}
  ].join(''),
)

/** Coverage 0…15 of a character's pixel. */
export function glyphCoverage(code: number, x: number, y: number): number {
  const index =
    (code < 32 || code > 126 ? 31 : code - 32) * glyphCell.width * glyphCell.height + y * glyphCell.width + x
  const byte = packed[index >> 1]!
  return index & 1 ? byte & 15 : byte >> 4
}
`,
)

function flatten(commands) {
  const edges = []
  let [x, y, sx, sy] = [0, 0, 0, 0]
  const line = (x1, y1) => {
    edges.push([x, y, x1, y1])
    x = x1
    y = y1
  }
  for (const c of commands) {
    if (c.type === 'M') {
      x = sx = c.x
      y = sy = c.y
    } else if (c.type === 'L') line(c.x, c.y)
    else if (c.type === 'Z') line(sx, sy)
    else {
      const [x0, y0] = [x, y]
      for (let i = 1; i <= 8; i++) {
        const t = i / 8,
          u = 1 - t
        if (c.type === 'Q')
          line(u * u * x0 + 2 * u * t * c.x1 + t * t * c.x, u * u * y0 + 2 * u * t * c.y1 + t * t * c.y)
        else
          line(
            u ** 3 * x0 + 3 * u * u * t * c.x1 + 3 * u * t * t * c.x2 + t ** 3 * c.x,
            u ** 3 * y0 + 3 * u * u * t * c.y1 + 3 * u * t * t * c.y2 + t ** 3 * c.y,
          )
      }
    }
  }
  return edges
}

function unwrapWoff(b) {
  if (b.toString('latin1', 0, 4) !== 'wOFF') return b.buffer.slice(b.byteOffset, b.byteOffset + b.length)
  const n = b.readUInt16BE(12)
  const tables = []
  for (let i = 0; i < n; i++) {
    const at = 44 + i * 20
    const [offset, comp, orig] = [4, 8, 12].map((k) => b.readUInt32BE(at + k))
    const raw = b.subarray(offset, offset + comp)
    tables.push({
      tag: b.subarray(at, at + 4),
      sum: b.readUInt32BE(at + 16),
      data: comp < orig ? inflateSync(raw) : raw,
    })
  }
  const head = Buffer.alloc(12 + n * 16)
  b.copy(head, 0, 4, 8)
  head.writeUInt16BE(n, 4)
  let at = head.length
  const parts = [head]
  tables.forEach((t, i) => {
    t.tag.copy(head, 12 + i * 16)
    head.writeUInt32BE(t.sum, 16 + i * 16)
    head.writeUInt32BE(at, 20 + i * 16)
    head.writeUInt32BE(t.data.length, 24 + i * 16)
    const padded = Buffer.alloc((t.data.length + 3) & ~3)
    t.data.copy(padded)
    parts.push(padded)
    at += padded.length
  })
  const all = Buffer.concat(parts)
  return all.buffer.slice(all.byteOffset, all.byteOffset + all.length)
}
