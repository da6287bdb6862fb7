import { defineStore } from 'pinia'
import { nextTick } from 'vue'
import type { FrameRange } from '../../core/time/range'
import { useEditor } from './editor'

/** What the desk plays, and how fast; the picture at the playhead does the playing. */
export const usePlaying = defineStore('playing', {
  state: () => ({
    /** Times normal speed, negative backwards; 0 while nothing is played. */
    speed: 0,
    /** What is played one after the other; none: on from the playhead. */
    stretches: [] as readonly FrameRange[],
  }),
  getters: {
    /** The frame that what is played ends before. */
    end: (s): number => s.stretches[0]?.out ?? useEditor().length,
  },
  actions: {
    /** Plays on from the playhead, or no more. */
    toggle() {
      this.speed = this.speed ? 0 : 1
    },
    stop() {
      this.speed = 0
    },
    /** Plays on or back: each time twice as fast, up to 8 ×; the other way begins at normal speed. */
    shuttle(direction: 1 | -1) {
      const faster = this.speed * direction > 0 ? Math.min(8, Math.abs(this.speed) * 2) : 1
      this.speed = faster * direction
    },
    /** Plays stretches one after the other, and nothing between. */
    only(list: readonly FrameRange[]) {
      if (list.length === 0) return
      this.speed = 0
      void nextTick(() => {
        this.stretches = list
        useEditor().go(list[0]!.in)
        this.speed = 1
      })
    },
    /** Begins anew from where it is, as when other channels are to be heard. */
    again() {
      const { stretches } = this
      this.speed = 0
      void nextTick(() => Object.assign(this, { stretches, speed: 1 }))
    },
    /** The stretch in hand has been played: on to the next, or rest on its last frame. */
    playedOne() {
      const [done, ...rest] = this.stretches
      if (rest.length) return this.only(rest)
      const desk = useEditor()
      desk.go((done?.out ?? desk.length) - 1)
      this.speed = 0
    },
    /** A second before and after the edge of the region in hand, or the cut, that is nearest to the playhead. */
    around() {
      const { current, cuts, playhead, second, length } = useEditor()
      const edges = current ? [current.in, current.out] : cuts
      const off = (n: number) => Math.abs(n - playhead)
      const at = edges.reduce((best, n) => (off(n) < off(best) ? n : best), edges[0] ?? playhead)
      this.only([{ in: Math.max(0, at - second), out: Math.min(length, at + second) }])
    },
    /** The region in hand; or what is selected, else every region, one after the other. */
    regions(all: boolean) {
      const { selected, regions, current } = useEditor()
      const chosen = selected.length > 1 ? regions.filter((r) => selected.includes(r.id)) : regions
      this.only(all ? chosen : current ? [current] : [])
    },
  },
})
