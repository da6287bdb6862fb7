import { saidOf } from '../media/scan'
import type { Reading } from '../measure/measure'
import { trimAssembly } from '../timeline/assembly/assembly'
import type { JudgedDraft } from './judged'
import type { FrozenDeliverable } from './sheet'

/**
 * Freezes a judged draft under an id, for a run of a day: what happens at the desk afterwards does not change it.
 */
export function freeze(d: JudgedDraft, id: string, date?: string): FrozenDeliverable {
  const { timeline: t, region, outlet, recipe, spec } = d.draft
  const { model } = t
  return {
    format: 2,
    id,
    title: d.title,
    timeline: {
      id: t.id,
      show: t.show,
      name: t.name,
      rate: model.rate,
      dropFrame: model.dropFrame,
      start: model.start,
      length: model.length,
    },
    ...(date ? { date } : {}),
    source: { ...t.file, fingerprint: t.fingerprint, ...saidOf(t.info) },
    ...(t.linking ? { assembly: trimAssembly(t.linking.assembly, region) } : {}),
    region: {
      ...{ id: region.id, name: region.name, in: region.in, out: region.out, metadata: { ...region.metadata } },
      ...(d.draft.handles.before + d.draft.handles.after > 0 ? { handles: d.draft.handles } : {}),
    },
    ...(d.head ? { head: d.head } : {}),
    ...(d.damaged.length ? { damaged: d.damaged.map((r) => ({ in: region.in + r.in, out: region.in + r.out })) } : {}),
    chapters: d.draft.chapters.map((c) => ({ ...c })),
    ...(d.draft.accepted.length ? { accepted: [...d.draft.accepted] } : {}),
    outlet: {
      ...{ id: outlet.id, name: outlet.name },
      ...(outlet.checksums ? { checksums: [...outlet.checksums] } : {}),
    },
    recipe,
    spec,
    target: { root: outlet.root, path: d.path, version: d.version },
    output: d.output,
    ...(d.earlier ? { earlier: d.earlier } : {}),
    steps: d.steps.map((s) => ({ ...s, needs: [...s.needs], abilities: [...s.abilities] })),
    route: [...d.draft.route],
    seconds: d.seconds,
    readings: Object.fromEntries(
      d.results.flatMap((r) => {
        const reading = r.forecast ?? r.source
        return reading ? [[r.rule.measure, storable(reading)]] : []
      }),
    ),
    waivers: [...d.draft.waivers],
  }
}

/** A value as JSON can hold it: silence, −∞ LUFS, is no number there. */
const plain = <T>(v: T) => (typeof v === 'number' && !Number.isFinite(v) ? null : v)

function storable({ value, text, from, which, faults }: Reading): FrozenDeliverable['readings'][string] {
  return {
    value: (Array.isArray(value) ? value.map(plain) : plain(value)) as FrozenDeliverable['readings'][string]['value'],
    text,
    from,
    ...(which ? { which: [...which] } : {}),
    ...(faults ? { faults: [...faults] } : {}),
  }
}
