import { verdictLetters, type Deliverable, type DeliverableSummary } from '../../contract/deliverables'
import { keyText, rulesBefore, type Outlet } from '../../core/deliverable/outlet'
import type { Group } from '../../core/measure/measure'
import type { Verdict } from '../../core/spec/judge'
import type { Rule, Spec } from '../../core/spec/spec'
import { useProblems } from '../stores/problems'
import { useShelf } from '../stores/shelf'
import { api } from './api'

/** Groups of measures as they are called here. */
export const groupWords: Readonly<Record<Group, string>> = {
  structure: 'Structure',
  picture: 'Picture',
  time: 'Time',
  sound: 'Sound',
  content: 'Content',
  metadata: 'Papers',
}

/** What one rule says of a deliverable, as far as a summary tells. */
export interface Mark {
  readonly rule: Rule
  readonly verdict: Verdict
  readonly fix: boolean
}

const known = new WeakMap<DeliverableSummary, { outlet: Outlet; spec: Spec; marks: Mark[] }>()

/** The rules that hold for a deliverable, each with its verdict. */
export function marksOf(d: DeliverableSummary): readonly Mark[] {
  const shelf = useShelf()
  const outlet = shelf.outlets.find((o) => o.id === d.outletId)
  const spec = shelf.specOf(d.outletId)
  if (!outlet || !spec) return []
  const kept = known.get(d)
  if (kept?.spec === spec && kept.outlet === outlet) return kept.marks
  const fixable = new Set(d.fixable)
  const marks = rulesBefore(outlet, spec, d).map((rule, i) => ({
    rule,
    verdict: verdictLetters[d.marks[i] ?? 'u'] ?? 'unmeasured',
    fix: fixable.has(i),
  }))
  known.set(d, { outlet, spec, marks })
  return marks
}

/** All that is known of the deliverable in hand; asked for anew when it changes. */
export function useDetail(hand: () => DeliverableSummary | null) {
  const detail = shallowRef<Deliverable | null>(null)
  watch(
    hand,
    (d) => {
      if (!d || (detail.value && keyText(detail.value) !== keyText(d))) detail.value = null
      if (!d) return
      const { timelineId, regionId, outletId } = d
      const params = { timeline: timelineId, region: regionId, outlet: outletId }
      void useProblems().attempt(async () => {
        const answer = await api('GET deliverables/:timeline/:region/:outlet', { params })
        if (hand() === d) detail.value = markRaw(answer)
      })
    },
    { immediate: true },
  )
  return detail
}
