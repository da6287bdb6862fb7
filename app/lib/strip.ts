import { lastAtOrBefore } from '../../core/time/order'
import { isCaution, troublesIn, type LinkState, type Source } from '../../core/timeline/link/source'
import type { Timeline, Shot } from '../../core/timeline/model'
import type { Region } from '../../core/split/region'
import type { FrameRange } from '../../core/time/range'
import { formatTimecode, type TimeBase } from '../../core/time/timecode'
import { countsSamples, nominalRate } from '../../core/time/rate'
import type { Flag } from './flags'

/** Columns of the strip, in pixels from its left edge. */
export const columns = { tc: 0, pictures: 88, sound: 206, flags: 252, brackets: 276, end: 330 } as const
const pictureWidth = columns.sound - columns.pictures - 8

export interface StripView {
  readonly width: number
  readonly height: number
  /** Frame at the top, and pixels a frame. */
  readonly top: number
  readonly zoom: number
}

export interface StripContent {
  readonly base: TimeBase
  readonly start: number
  readonly length: number
  readonly shots: readonly Shot[]
  readonly shotStarts: readonly number[]
  readonly regions: readonly Region[]
  readonly lanes: readonly number[]
  /** Frames that are delivered before and after regions as well, by region. */
  readonly handles: ReadonlyMap<string, number>
  readonly markers: readonly { readonly at: number }[]
  /** Regions that would be made, while a way to split is looked at. */
  readonly proposed: readonly (FrameRange & { readonly taken: boolean })[]
  readonly ribbon: readonly (number | null)[] | null
  /** Momentary loudness of every tenth of a second, LUFS: what is drawn where sound alone has no pictures. */
  readonly envelope: readonly (number | null)[] | null
  readonly flags: readonly Flag[]
  /** Cuts found where none is given. */
  readonly found: readonly number[]
  /** Where media is missing or not as it should be. */
  readonly troubles: readonly Trouble[]
  readonly target: number | null
  readonly playhead: number
  readonly marked: { readonly in: number | null; readonly out: number | null }
  readonly selected: ReadonlySet<string>
  readonly shotsSelected: ReadonlySet<number>
  readonly aspect: number
  readonly image: (frame: number) => CanvasImageSource | null
}

export interface Palette {
  readonly [name: string]: string
}

/** A stretch whose media is not as it should be. */
export interface Trouble extends FrameRange {
  readonly word: string
  readonly grave: boolean
}

const troubleWords: Partial<Record<Source['state'], string>> = {
  missing: 'no media',
  replaced: 'media replaced',
  short: 'media too short',
  rate: 'other rate',
  raster: 'other raster',
  'sound-rate': 'sound at another rate',
  unheard: 'sound not read',
  channels: 'lacks channels',
  'some-channels': 'not all channels',
  twice: 'timecode is there twice',
  ambiguous: 'several files fit',
}

/** The stretches of a timeline whose sources are in trouble, in order. */
export function troublesOf(timeline: Pick<Timeline, 'events'>, sources: readonly Source[]): Trouble[] {
  const worst = new Map<number, LinkState>()
  for (const { events, state } of sources.flatMap(troublesIn))
    for (const i of events) if (!worst.has(i)) worst.set(i, state)
  return [...worst]
    .map(([i, state]) => {
      const { record } = timeline.events[i]!
      return { ...record, word: troubleWords[state] ?? state, grave: !isCaution(state) }
    })
    .sort((a, b) => a.in - b.in)
}

/** Lanes for brackets, so that overlapping regions stand beside each other. */
export function bracketLanes(regions: readonly Region[]): number[] {
  const ends: number[] = []
  return regions.map((r) => {
    let lane = ends.findIndex((e) => e <= r.in)
    if (lane < 0) lane = ends.length
    ends[lane] = r.out
    return lane
  })
}

export const yOf = (view: StripView, frame: number) => (frame - view.top) * view.zoom
export const frameAt = (view: StripView, y: number) => view.top + y / view.zoom

/** Index of the first region that reaches into view, given regions in order; steps back over long ones. */
function firstVisible(regions: readonly FrameRange[], from: number): number {
  let i = Math.max(
    0,
    lastAtOrBefore(
      regions.map((r) => r.in),
      from,
    ),
  )
  while (i > 0 && regions[i - 1]!.out > from) i--
  return i
}

/** Steps of the timecode column, in seconds, of which the smallest that leaves room is taken. */
const steps = [0.2, 0.4, 1, 2, 5, 10, 30, 60, 300, 600, 1800, 3600, 10800]

/** What every part of the strip is drawn with; [from, to) are the frames in view. */
interface Drawing {
  readonly g: CanvasRenderingContext2D
  readonly view: StripView
  readonly c: StripContent
  readonly p: Palette
  readonly from: number
  readonly to: number
}

/** Draws what is visible of the strip: timecode, pictures, sound, flags, brackets, playhead. */
export function drawStrip(g: CanvasRenderingContext2D, view: StripView, c: StripContent, p: Palette): void {
  const from = Math.max(0, view.top)
  const to = Math.min(c.length, frameAt(view, view.height))
  g.fillStyle = p.ground!
  g.fillRect(0, 0, view.width, view.height)
  if (c.length === 0) return
  g.textBaseline = 'middle'
  const d: Drawing = { g, view, c, p, from, to }
  for (let i = Math.max(0, lastAtOrBefore(c.shotStarts, from)); i < c.shots.length && c.shots[i]!.in < to; i++)
    drawShot(d, c.shots[i]!, i)
  for (const t of c.troubles) if (t.out > from && t.in < to) drawTrouble(d, t)
  drawTimecode(d)
  if (c.ribbon) drawRibbon(d)
  drawFlags(d)
  drawFoundCuts(d)
  drawMarked(d)
  g.font = '11px "Red Hat Mono Variable"'
  for (let i = firstVisible(c.regions, from); i < c.regions.length && c.regions[i]!.in < to; i++)
    if (c.regions[i]!.out >= from) drawBracket(d, c.regions[i]!, i)
  drawHandles(d)
  drawProposed(d)
  drawPlayhead(d)
}

/** A shot: stills, its name, and a rule at its first frame. */
function drawShot(d: Drawing, s: Shot, i: number): void {
  const { g, view, c, p } = d
  const y0 = yOf(view, s.in)
  const y1 = yOf(view, s.out)
  g.fillStyle = i % 2 ? p.shotA! : p.shotB!
  g.fillRect(columns.pictures, y0, pictureWidth, y1 - y0)
  if (c.envelope) drawEnvelope(d, c.envelope, y0, y1)
  else drawStills(d, s, y0, y1)
  if (c.shotsSelected.has(i)) {
    g.strokeStyle = p.crane!
    g.lineWidth = 2
    g.strokeRect(columns.pictures + 1, y0 + 1, pictureWidth - 2, y1 - y0 - 2)
  }
  g.fillStyle = p.quiet!
  g.globalAlpha = y1 - y0 > 3 ? 0.75 : 0.3
  g.fillRect(columns.pictures - 6, Math.round(y0), columns.flags + 18 - columns.pictures + 6, 1)
  g.globalAlpha = 1
  if (y1 - y0 > 30 && s.name) {
    g.font = '11px "Hanken Grotesk Variable"'
    const label = s.name.length > 18 ? `${s.name.slice(0, 17)}…` : s.name
    const w = g.measureText(label).width
    g.fillStyle = p.ground!
    g.globalAlpha = 0.78
    g.fillRect(columns.pictures, y0 + 1, w + 8, 15)
    g.globalAlpha = 1
    g.fillStyle = p.text!
    g.fillText(label, columns.pictures + 4, y0 + 9)
  }
}

function drawStills({ g, view, c }: Drawing, s: Shot, y0: number, y1: number): void {
  const stillHeight = Math.round(pictureWidth / c.aspect)
  g.save()
  g.beginPath()
  g.rect(columns.pictures, Math.max(-1, y0), pictureWidth, Math.min(view.height + 1, y1) - Math.max(-1, y0))
  g.clip()
  const gap = 3
  const count = Math.max(1, Math.floor((y1 - y0 + gap) / (stillHeight + gap)))
  if (y1 - y0 > 7) {
    for (let k = 0; k < count; k++) {
      const y = y0 + k * (stillHeight + gap)
      if (y > view.height || y + stillHeight < 0) continue
      const image = c.image(Math.min(s.out - 1, Math.round(s.in + (y - y0) / view.zoom)))
      if (image) g.drawImage(image, columns.pictures, y, pictureWidth, stillHeight)
    }
  }
  g.restore()
}

/** Sound in the place of stills: as wide as it is loud. */
function drawEnvelope({ g, view, c, p }: Drawing, levels: readonly (number | null)[], y0: number, y1: number): void {
  const tenth = c.base.rate.num / c.base.rate.den / 10
  const centre = columns.pictures + pictureWidth / 2
  g.fillStyle = p.lilac!
  g.globalAlpha = 0.85
  for (let y = Math.max(0, Math.ceil(y0)); y < Math.min(view.height, y1); y++) {
    const level = levels[Math.floor(frameAt(view, y) / tenth)]
    if (level === null || level === undefined) continue
    const w = (Math.max(0, Math.min(1, (level + 60) / 60)) * pictureWidth) / 2
    g.fillRect(centre - w, y, w * 2, 1)
  }
  g.globalAlpha = 1
}

/** Hatching over a stretch whose media is not as it should be, and the word for it. */
function drawTrouble({ g, view, p }: Drawing, t: Trouble): void {
  const y0 = Math.max(-4, yOf(view, t.in))
  const y1 = Math.min(view.height + 4, yOf(view, t.out))
  g.save()
  g.beginPath()
  g.rect(columns.pictures, y0, pictureWidth, y1 - y0)
  g.clip()
  g.strokeStyle = t.grave ? p.red! : p.ochre!
  g.globalAlpha = 0.55
  g.lineWidth = 2
  for (let y = Math.floor(y0 / 14) * 14 - pictureWidth; y < y1; y += 14) {
    g.beginPath()
    g.moveTo(columns.pictures, y + pictureWidth)
    g.lineTo(columns.pictures + pictureWidth, y)
    g.stroke()
  }
  g.restore()
  if (y1 - y0 > 34) {
    g.font = '11px "Hanken Grotesk Variable"'
    const w = g.measureText(t.word).width
    g.fillStyle = p.ground!
    g.fillRect(columns.pictures, y0 + 17, w + 8, 15)
    g.fillStyle = t.grave ? p.red! : p.ochre!
    g.fillText(t.word, columns.pictures + 4, y0 + 25)
  }
}

/** A cut that was found where the list has none: a short dashed rule. */
function drawFoundCuts({ g, view, c, p, from, to }: Drawing): void {
  g.fillStyle = p.ochre!
  for (const n of c.found)
    if (n > from && n < to)
      for (let x = 0; x < 5; x++) g.fillRect(columns.sound - 30 + x * 6, Math.round(yOf(view, n)), 4, 1.5)
}

function drawMarked({ g, view, c, p }: Drawing): void {
  const { in: markIn, out: markOut } = c.marked
  if (markIn !== null || markOut !== null) {
    const y0 = yOf(view, markIn ?? markOut! - 1)
    const y1 = yOf(view, markOut ?? markIn! + 1)
    g.fillStyle = p.crane!
    g.globalAlpha = 0.17
    g.fillRect(columns.tc, y0, columns.brackets, Math.max(2, y1 - y0))
    g.globalAlpha = 1
    for (const y of [markIn !== null ? y0 : null, markOut !== null ? y1 : null])
      if (y !== null) g.fillRect(columns.tc, Math.round(y) - 1, columns.brackets, 2)
  }
}

function drawBracket({ g, view, c, p }: Drawing, r: Region, i: number): void {
  const x = columns.brackets + 8 + Math.min(4, c.lanes[i]!) * 9
  const y0 = yOf(view, r.in) + 1
  const y1 = yOf(view, r.out) - 1
  const chosen = c.selected.has(r.id)
  g.strokeStyle = chosen ? p.crane! : p.quiet!
  g.lineWidth = chosen ? 3 : 1.5
  g.beginPath()
  g.moveTo(x + 9, y0)
  g.lineTo(x, y0)
  g.lineTo(x, Math.max(y0 + 1, y1))
  g.lineTo(x + 9, Math.max(y0 + 1, y1))
  g.stroke()
  for (const m of c.markers) {
    if (m.at < r.in || m.at >= r.out) continue
    const y = yOf(view, m.at)
    g.fillStyle = p.ochre!
    g.beginPath()
    g.moveTo(x + 1, y - 4)
    g.lineTo(x + 9, y)
    g.lineTo(x + 1, y + 4)
    g.fill()
  }
  if (y1 - y0 > 16) {
    g.fillStyle = chosen ? p.crane! : p.quiet!
    g.fillText(
      String(i + 1).padStart(2, '0'),
      x + 14,
      Math.max(10, Math.min(view.height - 10, (Math.max(0, y0) + Math.min(view.height, y1)) / 2)),
    )
  }
}

/** Handles: hatched on both sides of a bracket, as far as they are delivered. */
function drawHandles({ g, view, c, p, from, to }: Drawing): void {
  if (c.handles.size === 0) return
  g.fillStyle = p.crane!
  c.regions.forEach((r, i) => {
    const frames = c.handles.get(r.id) ?? 0
    if (frames === 0 || r.out + frames < from || r.in - frames > to) return
    const x = columns.brackets + 8 + Math.min(4, c.lanes[i]!) * 9
    for (const [a, b] of [
      [Math.max(0, r.in - frames), r.in],
      [r.out, Math.min(c.length, r.out + frames)],
    ] as const) {
      const end = Math.min(view.height, yOf(view, b))
      for (let y = Math.max(0, yOf(view, a)); y < end; y += 3) g.fillRect(x, y, 7, 1.2)
    }
  })
}

/** What would be made: dashed brackets at the outer edge, over a faint ground. */
function drawProposed({ g, view, c, p, from, to }: Drawing): void {
  const x = columns.end - 12
  g.lineWidth = 2
  for (let i = Math.max(0, firstVisible(c.proposed, from)); i < c.proposed.length && c.proposed[i]!.in < to; i++) {
    const r = c.proposed[i]!
    const y0 = yOf(view, r.in) + 1
    const y1 = Math.max(y0 + 1, yOf(view, r.out) - 1)
    g.strokeStyle = r.taken ? p.ochre! : p.line!
    g.fillStyle = p.ochre!
    g.globalAlpha = r.taken ? 0.1 : 0.03
    g.fillRect(columns.pictures, y0, columns.end - columns.pictures, y1 - y0)
    g.globalAlpha = 1
    g.setLineDash([5, 3])
    g.beginPath()
    g.moveTo(x - 8, y0)
    g.lineTo(x, y0)
    g.lineTo(x, y1)
    g.lineTo(x - 8, y1)
    g.stroke()
    g.setLineDash([])
  }
}

function drawPlayhead({ g, view, c, p }: Drawing): void {
  const y = Math.round(yOf(view, c.playhead))
  if (y >= -1 && y <= view.height) {
    g.fillStyle = p.red!
    g.fillRect(0, y, view.width, 1.5)
    g.beginPath()
    g.moveTo(0, y - 5)
    g.lineTo(7, y)
    g.lineTo(0, y + 6)
    g.fill()
  }
}

function drawTimecode({ g, view, c, p, from, to }: Drawing): void {
  const fps = nominalRate(c.base.rate)
  const step = Math.max(1, Math.round((steps.find((s) => s * fps * view.zoom >= 30) ?? steps.at(-1)!) * fps))
  g.font = '11px "Red Hat Mono Variable"'
  const offset = c.start % step
  for (let n = Math.max(0, Math.floor((from + offset) / step) * step - offset); n < to; n += step) {
    const y = Math.round(yOf(view, n))
    g.fillStyle = p.line!
    g.fillRect(0, y, 6, 1)
    g.fillStyle = p.quiet!
    if (y > 5) g.fillText(stripLabel(c.start + n, step, c.base), 8, y + 0.5)
  }
}

/** A label of the timecode column; of sound alone, tenths of a second stand for samples, where the steps need them. */
export function stripLabel(at: number, step: number, base: TimeBase): string {
  const label = formatTimecode(at, base)
  if (!countsSamples(base.rate)) return label
  const second = nominalRate(base.rate)
  const clock = label.slice(0, 8)
  return step % second === 0 ? clock : `${clock}.${Math.round(((at % second) * 10) / second)}`
}

/** Width of the ribbon at a loudness: −50 LUFS is nothing, 0 LUFS is all. */
const ribbonWidth = (lufs: number) => Math.max(0, Math.min(1, (lufs + 50) / 50)) * 19

function drawRibbon({ g, view, c, p }: Drawing): void {
  const centre = columns.sound + 20
  const perTenth = nominalRate(c.base.rate) / 10
  const rate = c.base.rate.num / c.base.rate.den / 10
  g.fillStyle = p.crane!
  g.globalAlpha = 0.6
  // whole pixels: parts of one leave seams
  const step = Math.max(1, Math.round(Math.min(3, perTenth * view.zoom)))
  for (let y = 0; y < view.height; y += step) {
    const v = c.ribbon![Math.floor(frameAt(view, y) / rate)]
    if (v === undefined || v === null) continue
    const w = ribbonWidth(v)
    g.fillStyle = c.target !== null && v > c.target + 5 ? p.ochre! : p.crane!
    g.fillRect(centre - w, y, w * 2, step)
  }
  g.globalAlpha = 1
  if (c.target !== null) {
    const w = ribbonWidth(c.target)
    g.fillStyle = p.text!
    g.globalAlpha = 0.8
    g.fillRect(centre - w, 0, 0.8, view.height)
    g.fillRect(centre + w, 0, 0.8, view.height)
    g.globalAlpha = 1
  }
}

/** What the strip's columns show, from the right one to the left: said where nothing more is known of a place. */
const columnHints = [
  [columns.brackets, 'Regions: drag an edge to trim'],
  [columns.flags, 'Faults of picture and sound: none here'],
  [columns.sound, 'Short-term loudness, wider is louder; hairlines at what the outlet asks'],
  [columns.pictures, 'Shots'],
  [columns.tc, 'Timecode: drag to mark a range'],
] as const
export const columnHint = (x: number): string => columnHints.find(([from]) => x >= from)?.[1] ?? ''

function drawFlags({ g, view, c, p, from, to }: Drawing): void {
  const flag = (list: readonly FrameRange[], colour: string, letter: string) => {
    for (const r of list) {
      if (r.out < from || r.in > to) continue
      const y0 = yOf(view, r.in)
      const h = Math.max(3, (r.out - r.in) * view.zoom)
      g.fillStyle = colour
      g.fillRect(columns.flags, y0, 4, h)
      g.beginPath()
      g.roundRect(columns.flags + 3, y0 - 6 + Math.min(h, 12) / 2, 14, 13, 2)
      g.fill()
      g.fillStyle = p.ground!
      g.font = '700 10px "Hanken Grotesk Variable"'
      g.fillText(letter, columns.flags + 6.5, y0 + 1 + Math.min(h, 12) / 2)
    }
  }
  for (const f of c.flags) flag(f.list, p[f.colour]!, f.letter)
}
