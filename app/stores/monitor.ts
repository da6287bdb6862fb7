import { defineStore } from 'pinia'
import type { Hearable } from '../lib/hearing'
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
    /** Channels that are heard, from 0; none: those that are usual. */
    heard: [] as number[],
  }),
  getters: {
    /** The channels that are heard, of those that can be: what was chosen of them, else those that are usual. */
    heardOf:
      (s) =>
      ({ open, usual }: Hearable): readonly number[] => {
        const chosen = s.heard.filter((c) => open.includes(c))
        return chosen.length ? chosen : usual
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
    /** Hears one channel alone, or again those that are usual; with others, adds it or takes it away. */
    hear(channel: number, withOthers: boolean, of: Hearable) {
      if (withOthers) {
        const now = this.heardOf(of)
        this.heard = now.includes(channel) ? now.filter((c) => c !== channel) : [...now, channel].sort((a, b) => a - b)
      } else this.heard = this.heard.length === 1 && this.heard[0] === channel ? [] : [channel]
    },
    /** Hears the next two of the channels that can be heard; a mix in surround as a whole before its first two. */
    hearNext(of: Hearable) {
      const pairs = of.open.flatMap((_, i) => (i % 2 ? [] : [of.open.slice(i, i + 2)]))
      const all = of.usual.length > 2 ? [of.usual, ...pairs] : pairs
      const now = this.heardOf(of)
      const same = all.findIndex((x) => x.join() === now.join())
      const at = same >= 0 ? same : all.findLastIndex((x) => x.includes(now[0]!))
      const next = (at + 1) % all.length
      this.heard = next === 0 ? [] : [...all[next]!]
    },
  },
})
