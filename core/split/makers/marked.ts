import { shotAt } from '../shots'
import type { SplitMaker } from './maker'

/** The marked range, or the shot under the playhead when nothing is marked. */
export const marked: SplitMaker = {
  name: 'marked',
  label: 'the marked range',
  hint: 'What is marked, or the shot under the playhead: what Enter makes.',
  make({ marked: range, shots = [], playhead }) {
    if (range) return [{ in: range.in, out: range.out, name: '' }]
    const shot = playhead === undefined ? null : shotAt(shots, playhead)
    return shot ? [{ in: shot.in, out: shot.out, name: shot.name }] : []
  },
}
