import { withSettings, type SplitMaker } from './maker'
import { neededForShots, shotsFor } from './measured'

/** Each of the shots that were chosen, or each one there is. */
export const shots: SplitMaker = withSettings({
  name: 'shots',
  label: 'each shot',
  hint: 'Each shot that is selected on the strip, or each one there is.',
  settings: {
    shortest: { kind: 'length', label: 'Leave out what is shorter than', initial: () => 1, least: 1 },
  },
  needs: neededForShots,
  make(request, { shortest }) {
    const { chosen = [] } = request
    const all = shotsFor(request)
    const wanted = chosen.length ? chosen.map((i) => all[i]).filter((s) => s !== undefined) : all
    return wanted.filter((s) => s.out - s.in >= shortest).map((s) => ({ in: s.in, out: s.out, name: s.name }))
  },
})
