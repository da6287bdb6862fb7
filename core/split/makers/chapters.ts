import type { TimelineMarker } from '../../timeline/model'
import { withSettings, type SplitMaker } from './maker'
import { choice } from '../settings'

/** From each marker to the next, or as long as the marker itself. */
export const chapters: SplitMaker = withSettings({
  name: 'chapters',
  label: 'from marker to marker',
  hint: 'From each chapter or marker to the next; the last one to the end.',
  settings: {
    text: { kind: 'text', label: 'Only those that say', initial: '', hint: 'any' },
    kind: choice('Of which kind', [
      ['any', 'all'],
      ['chapter', 'chapters'],
      ['marker', 'markers'],
    ]),
  },
  make({ timeline, markers = timeline.markers }, { text, kind }) {
    // a marker that was set at the desk is a chapter; one that came along is what it came as
    const came = new Map<string, TimelineMarker>(timeline.markers.map((m) => [`${m.at} ${m.name}`, m]))
    const wanted = [...markers]
      .map((m) => ({ at: m.at, name: m.name, of: came.get(`${m.at} ${m.name}`) }))
      .filter((m) => m.of?.kind !== 'part' && m.at < timeline.length)
      .filter((m) => kind === 'any' || (m.of?.kind ?? 'chapter') === kind)
      .filter((m) => m.name.toLowerCase().includes(text.trim().toLowerCase()))
      .sort((a, b) => a.at - b.at)
    return wanted.flatMap((m, i) => {
      const next = wanted.slice(i + 1).find((n) => n.at > m.at)?.at ?? timeline.length
      const out = m.of?.frames ? Math.min(m.at + m.of.frames, timeline.length) : next
      return out > m.at && wanted[i - 1]?.at !== m.at ? [{ name: m.name, in: m.at, out }] : []
    })
  },
})
