import { defineStore } from 'pinia'
import { audit } from '../../core/split/audit/audit'
import { defaultAudit, findingId, findingWords, type AuditOptions, type Finding } from '../../core/split/audit/finding'
import { acceptanceOf } from '../../core/split/accepted'
import { accept, withoutAcceptance } from '../../core/split/edit'
import type { Acceptance } from '../../core/split/region'
import { grouped } from '../../core/group'
import { plural } from '../../core/text'
import { transitionsOf, type Timeline } from '../../core/timeline/model'
import type { ShownTimeline } from '../../contract/timelines'
import { troublesOf } from '../lib/strip'
import { useDeliverables } from './deliverables'
import { useEditor } from './editor'
import { useSplit } from './split'
import { useShelf } from './shelf'
import { useTimelines } from './timelines'

/** What was found last: it stands while an edge is dragged. */
let last: Finding[] = []

/** What is wrong with the split on the desk, and what was accepted as it is. */
export const useAudit = defineStore('audit', {
  getters: {
    shown: (): ShownTimeline | undefined => useTimelines().all.find((x) => x.id === useEditor().id),
    /** What is wrong with the split, but for what was accepted as it is. */
    findings(): Finding[] {
      const accepted = new Set((useEditor().split.accepted ?? []).map((a) => a.id))
      return accepted.size ? this.audited.filter((f) => !accepted.has(findingId(f))) : this.audited
    },
    /** Faults that were accepted, and how. */
    accepted(): { readonly finding: Finding; readonly as: Acceptance }[] {
      const by = new Map((useEditor().split.accepted ?? []).map((a) => [a.id, a]))
      if (by.size === 0) return []
      return this.audited.flatMap((finding) => {
        const as = by.get(findingId(finding))
        return as ? [{ finding, as }] : []
      })
    },
    audited(): Finding[] {
      const desk = useEditor()
      if (!desk.model) return []
      if (useSplit().dragging) return last
      // markers of a file of sound are no cuts that an edge could miss, nor are ends of what nobody has looked through
      const cuts = desk.sampled || this.cutsUnknown ? [] : desk.cuts
      const options = { ...defaultAudit, rate: desk.model.rate, ...this.pictured, ...this.told }
      return (last = audit(desk.split, cuts, desk.length, { ...options, momentary: this.momentary }))
    },
    /** Whether a file without a list has not been looked through for cuts, or never will be. */
    cutsUnknown(): boolean {
      const t = this.shown
      return t !== undefined && !t.assembled && t.cuts === null && !t.analysis?.pictures
    },
    /** Who gets each region and what they say against its length, as text: what does not change it audits nothing. */
    told(): Pick<AuditOptions, 'outlets' | 'lengths'> {
      const [outlets, lengths] = JSON.parse(this.toldText) as [
        [string, string[]][],
        [string, { why: string; blocks: boolean }[]][],
      ]
      return { outlets: new Map(outlets), lengths: new Map(lengths) }
    },
    toldText(): string {
      const names = new Map(useShelf().outlets.map((o) => [o.id, o.name]))
      const own = useDeliverables().all.filter((d) => d.timelineId === useEditor().id)
      const nameOf = (d: { outletId: string }) => names.get(d.outletId) ?? d.outletId
      const outlets = [...grouped(own, (d) => d.regionId)].map(([id, list]) => [id, list.map(nameOf)])
      const refused = own.flatMap((d) =>
        d.trouble.flatMap(({ measure, why, blocks }) =>
          measure === 'duration' ? [{ id: d.regionId, why: `${nameOf(d)}: ${why}`, blocks }] : [],
        ),
      )
      return JSON.stringify([outlets, [...grouped(refused, (r) => r.id)]])
    },
    momentary(): readonly (number | null)[] {
      return this.shown?.analysis?.sound?.momentary ?? []
    },
    /** What is known of the pictures at the edges: dissolves, cuts no list gives, media that is not there. */
    pictured(): Pick<AuditOptions, 'dissolves' | 'found' | 'troubles'> {
      const desk = useEditor()
      const t = this.shown
      if (!t || !desk.model || desk.sampled) return {}
      const given = transitionsOf(desk.model as Timeline)
      const seen = desk.found.flatMap((c) => (c.kind === 'dissolve' ? [{ in: c.from, out: c.to }] : []))
      return {
        dissolves: (given.length ? given : seen).sort((a, b) => a.in - b.in),
        found: t.comparison?.extra ?? [],
        troubles: troublesOf(desk.model as Timeline, t.sources ?? []),
      }
    },
  },
  actions: {
    fix(finding: Finding) {
      const desk = useEditor()
      if (finding.fix) useSplit().step(finding.fix.label.toLowerCase(), finding.fix.apply(desk.split))
    },
    /** Mends every fault of a kind that has a plain fix, as one step. */
    fixAll(kind: Finding['kind']) {
      const desk = useEditor()
      const list = this.findings.filter((f) => f.kind === kind && f.fix)
      const mended = list.reduce((s, f) => f.fix!.apply(s), desk.split)
      useSplit().step(`mended ${plural(list.length, findingWords[kind][0], findingWords[kind][1])}`, mended)
    },
    /** Accepts faults as they are, with a reason; without one takes that back. */
    accept(list: readonly Finding[], as: Pick<Acceptance, 'reason' | 'initials'> | null) {
      const desk = useEditor()
      const split = as
        ? accept(
            desk.split,
            list.map((f) => acceptanceOf(f, desk.split, as)),
          )
        : withoutAcceptance(desk.split, list.map(findingId))
      useSplit().step(`${as ? 'accepted' : 'no longer accepted'} ${plural(list.length, 'fault')}`, split)
    },
  },
})
