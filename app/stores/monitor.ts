import { defineStore } from 'pinia'
import type { Frames } from '../../core/time/rate'

/** What the picture at the playhead is held against: another frame of the timeline, or a file delivered of it. */
export type Against =
  | { readonly kind: 'frame'; readonly frame: Frames }
  | { readonly kind: 'file'; readonly id: string; readonly name: string }

const key = 'velvet.monitor'

/** How the picture and the sound at the playhead are looked at and listened to; the same for every timeline. */
export const useMonitor = defineStore('monitor', {
  state: () => ({
    /** Safe areas over the picture, and its waveform below it. */
    safe: false,
    waveform: false,
    against: null as Against | null,
    /** Channels that are heard, from 0; none: the first two that can be. */
    heard: [] as number[],
  }),
  getters: {
    /** The channels that are heard, of those that can be: what was chosen of them, else the first two. */
    heardOf:
      (s) =>
      (open: readonly number[]): readonly number[] => {
        const chosen = s.heard.filter((c) => open.includes(c))
        return chosen.length ? chosen : open.slice(0, 2)
      },
  },
  actions: {
    load() {
      const kept = JSON.parse(localStorage.getItem(key) ?? '{}') as { safe?: boolean; waveform?: boolean }
      Object.assign(this, { safe: kept.safe === true, waveform: kept.waveform === true })
    },
    toggle(what: 'safe' | 'waveform') {
      this[what] = !this[what]
      localStorage.setItem(key, JSON.stringify({ safe: this.safe, waveform: this.waveform }))
    },
    /** Holds the picture against the frame in hand, from now on; or against nothing any more. */
    compare(frame: Frames) {
      this.against = this.against ? null : { kind: 'frame', frame }
    },
    /** Hears one channel alone, or again the first two; with others, adds it or takes it away. */
    hear(channel: number, withOthers: boolean, open: readonly number[]) {
      if (withOthers) {
        const now = this.heardOf(open)
        this.heard = now.includes(channel) ? now.filter((c) => c !== channel) : [...now, channel].sort((a, b) => a - b)
      } else this.heard = this.heard.length === 1 && this.heard[0] === channel ? [] : [channel]
    },
    /** Hears the next two of the channels that can be heard. */
    hearNext(open: readonly number[]) {
      const first = Math.floor(open.indexOf(this.heardOf(open)[0]!) / 2) * 2 + 2
      this.heard = open.slice(first, first + 2)
    },
  },
})
