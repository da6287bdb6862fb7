import { defineStore } from 'pinia'
import type { FrameRange } from '../../core/time/range'
import type { Frames } from '../../core/time/rate'

/** Pixels that stay free above the first frame, and below the last. */
const [above, below] = [20, 40]

/** How the desk shows a split: beside its strip, as a table, or by the pictures at its ends. */
export const deskViews = [
  { name: 'strip', label: 'strip', key: '1', hint: 'Regions beside their strip' },
  { name: 'table', label: 'table', key: '2', hint: 'Regions as a table: sort, filter, type' },
  { name: 'edges', label: 'edges', key: '3', hint: 'The pictures at the ends of every region, to be looked through' },
] as const
export type DeskView = (typeof deskViews)[number]['name']

/** What part of a timeline the strip shows, and how large. */
export const useView = defineStore('view', {
  state: () => ({
    shows: 'strip' as DeskView,
    /** Frame at the strip's top, and pixels a frame. */
    top: 0,
    zoom: 1.4,
    /** Of the strip, in pixels; nothing until it is there. */
    height: 0,
    length: 0 as Frames,
    /** Frames that are drawn as large as one of pictures is, where samples are counted. */
    grain: 1,
    /** Nobody has chosen what is shown: a short timeline fills the height. */
    unplaced: false,
  }),
  getters: {
    /** Pixels a frame at which the whole is seen. */
    whole: (s): number => (s.height - above - below) / Math.max(1, s.length),
    most: (s): number => 24 / s.grain,
    least(): number {
      return Math.min(0.3 / this.grain, this.whole)
    },
    /** The frames in view. */
    window: (s): FrameRange => ({
      in: Math.max(0, s.top),
      out: Math.min(s.length, s.top + s.height / s.zoom),
    }),
  },
  actions: {
    lay(length: Frames, grain: number, place: { readonly top: number; readonly zoom: number } | null) {
      Object.assign(this, { length, grain, unplaced: place === null, ...(place ?? { top: 0, zoom: 1.4 / grain }) })
      this.settle()
    },
    resize(height: number) {
      this.height = height
      this.settle()
    },
    settle() {
      if (this.unplaced && this.height > 0 && this.whole > this.zoom) this.fit()
    },
    moveTo(top: number) {
      const last = this.length - (this.height - above - below) / this.zoom
      this.top = Math.max(-above / this.zoom, Math.min(top, last))
      this.unplaced = false
    },
    /** Zooms so that what is at a height of the strip stays there. */
    zoomAt(factor: number, y: number) {
      const at = this.top + y / this.zoom
      this.zoom = Math.max(this.least, Math.min(this.most, this.zoom * factor))
      this.moveTo(at - y / this.zoom)
    },
    /** Zooms about a frame where it is in view, else about the middle. */
    zoomAbout(factor: number, frame: Frames) {
      const y = (frame - this.top) * this.zoom
      this.zoomAt(factor, y >= 0 && y <= this.height ? y : this.height / 2)
    },
    /** Shows a range as large as the height allows. */
    show({ in: from, out }: FrameRange) {
      this.zoom = Math.max(this.least, Math.min(this.most, (this.height - above - below) / Math.max(1, out - from)))
      this.top = from - above / this.zoom
      this.unplaced = false
    },
    fit() {
      this.show({ in: 0, out: this.length })
    },
    /** Brings a frame into view, where it is not. */
    reveal(frame: Frames) {
      const y = (frame - this.top) * this.zoom
      if (y < 20) this.moveTo(frame - this.height / this.zoom / 4)
      else if (y > this.height - 30) this.moveTo(frame - (this.height / this.zoom) * 0.75)
    },
    /** Brings a frame to the middle. */
    centre(frame: Frames) {
      this.moveTo(frame - this.height / this.zoom / 2)
    },
  },
})
