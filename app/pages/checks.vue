<script setup lang="ts">
import { groups as groupNames } from '../../core/measure/measure'
import { measureOf, measures } from '../../core/measure/registry'
import { blocks, worstVerdict, type Verdict } from '../../core/spec/judge'
import type { DeliverableSummary } from '../../contract/deliverables'
import { keyText } from '../../core/deliverable/outlet'
import { marksOf, type Mark } from '../lib/marks'
import { plural } from '../lib/text'
import { useEditor } from '../stores/editor'
import { useDeliverables } from '../stores/deliverables'
import { useShelf } from '../stores/shelf'

const deliverables = useDeliverables()
const shelf = useShelf()
const desk = useEditor()
const route = useRoute()
const keyOf = (d: DeliverableSummary) => keyText(d)
const onlyTrouble = ref(false)
const columns = computed(() => {
  const list = deliverables.ofTimeline.filter((d) => !onlyTrouble.value || d.trouble.length > 0)
  return [...list].sort(
    (a, b) => shelf.outlets.findIndex((o) => o.id === a.outletId) - shelf.outlets.findIndex((o) => o.id === b.outletId),
  )
})
const byOutlet = computed(() =>
  shelf.outlets
    .map((o) => ({ outlet: o, list: columns.value.filter((c) => c.outletId === o.id) }))
    .filter((x) => x.list.length),
)
const of = (d: DeliverableSummary, m: string) => marksOf(d).filter((r) => r.rule.measure === m)
const verdictOf = (list: readonly Mark[]): Verdict | null =>
  list.length ? worstVerdict(list.map((r) => r.verdict)) : null
const groupWords = {
  structure: 'Structure',
  picture: 'Picture',
  time: 'Time',
  sound: 'Sound',
  content: 'Content',
  metadata: 'Papers',
}
const groups = computed(() => {
  const troubled = (r: Mark) => blocks(r.rule, r.verdict) || r.verdict === 'caution'
  const asked = (d: DeliverableSummary, m: string) =>
    of(d, m).length && (!onlyTrouble.value || of(d, m).some((r) => troubled(r)))
  const used = measures.filter((m) => columns.value.some((d) => asked(d, m.name)))
  return groupNames
    .map((g) => ({ name: groupWords[g], list: used.filter((m) => m.group === g).map((m) => m.name) }))
    .filter((g) => g.list.length)
})
const regionName = (id: string) => desk.regions.find((r) => r.id === id)?.name || 'without a name'
const regionNumber = (id: string) => String(desk.regions.findIndex((r) => r.id === id) + 1).padStart(2, '0')

const hand = ref<{ key: string; measure: string } | null>(null)
function firstTrouble(key?: string) {
  const d = columns.value.find((c) => (key ? keyOf(c) === key : !c.cleared)) ?? columns.value[0]
  const marks = d ? marksOf(d) : []
  const r =
    marks.find((x) => x.verdict === 'fail') ??
    marks.find((x) => blocks(x.rule, x.verdict)) ??
    marks.find((x) => x.verdict === 'caution') ??
    marks[0]
  hand.value = d && r ? { key: keyOf(d), measure: r.rule.measure } : null
}
watch(
  [() => desk.id, () => columns.value.length > 0],
  () => {
    if (!hand.value || !columns.value.some((c) => keyOf(c) === hand.value!.key))
      firstTrouble(route.query.deliverable as string | undefined)
  },
  { immediate: true },
)
const chosen = computed(() => columns.value.find((c) => keyOf(c) === hand.value?.key) ?? null)
const countOf = (v: Verdict) =>
  deliverables.ofTimeline.reduce((n, d) => n + marksOf(d).filter((r) => r.verdict === v).length, 0)

function key(e: KeyboardEvent) {
  if (!hand.value || (e.target as HTMLElement).closest('input, textarea, select')) return
  const rows = groups.value.flatMap((g) => g.list)
  const x = columns.value.findIndex((c) => keyOf(c) === hand.value!.key)
  const y = rows.indexOf(hand.value.measure)
  const to = { ArrowDown: [0, 1], ArrowUp: [0, -1], ArrowLeft: [-1, 0], ArrowRight: [1, 0] }[e.key]
  if (!to) return
  e.preventDefault()
  // step over cells without a rule
  for (let i = 1; i < 80; i++) {
    const d = columns.value[x + to[0]! * i]
    const m = rows[y + to[1]! * i]
    const nextColumn = to[0] ? d : columns.value[x]
    const nextRow = to[1] ? m : rows[y]
    if (!nextColumn || !nextRow) return
    if (of(nextColumn, nextRow).length) {
      hand.value = { key: keyOf(nextColumn), measure: nextRow }
      return
    }
  }
}
onMounted(() => window.addEventListener('keydown', key))
onBeforeUnmount(() => window.removeEventListener('keydown', key))
</script>

<template>
  <div class="checks">
    <div v-if="!columns.length && !onlyTrouble" class="station">
      <h1>Nothing to check yet</h1>
      <p class="quiet">
        Send regions to outlets first; then every rule of every recipient is held against what will be written.
        <NuxtLink to="/outlets">Go to Outlets</NuxtLink>
      </p>
    </div>
    <template v-else>
      <div class="grid">
        <div class="row bar">
          <span class="row"><VerdictMark verdict="fail" /> {{ plural(countOf('fail'), 'fail') }}</span
          ><span class="row"><VerdictMark verdict="caution" /> {{ plural(countOf('caution'), 'caution') }}</span
          ><span class="row"><VerdictMark verdict="waived" /> {{ countOf('waived') }} waived</span
          ><span class="row"><VerdictMark verdict="unmeasured" /> {{ countOf('unmeasured') }} unmeasured</span
          ><span class="grow" /><label class="row small"
            ><input v-model="onlyTrouble" type="checkbox" /> only what needs attention</label
          >
        </div>
        <table>
          <thead>
            <tr>
              <th class="rule" />
              <template v-for="o in byOutlet" :key="o.outlet.id"
                ><th :colspan="o.list.length" class="outlet">{{ o.outlet.name }}</th></template
              >
            </tr>
            <tr>
              <th class="rule" />
              <th v-for="d in columns" :key="keyOf(d)" class="col" :class="{ hand: hand?.key === keyOf(d) }">
                <button class="plain" :title="d.title" @click="firstTrouble(keyOf(d))">
                  <VerdictMark :verdict="d.verdict" :size="9" /><span class="vertical"
                    ><span class="num quiet">{{ regionNumber(d.regionId) }}</span> {{ regionName(d.regionId) }}</span
                  >
                </button>
              </th>
            </tr>
          </thead>
          <tbody v-for="g in groups" :key="g.name">
            <tr>
              <th class="group" :colspan="columns.length + 1">{{ g.name }}</th>
            </tr>
            <tr v-for="m in g.list" :key="m" :class="{ hand: hand?.measure === m }">
              <th class="rule">{{ measureOf(m).label }}</th>
              <td
                v-for="d in columns"
                :key="keyOf(d)"
                :class="{ hand: hand?.key === keyOf(d) && hand?.measure === m, col: hand?.key === keyOf(d) }"
              >
                <button
                  v-if="verdictOf(of(d, m))"
                  class="cellmark"
                  :aria-label="`${measureOf(m).label}, ${d.title}: ${verdictOf(of(d, m))}`"
                  @click="hand = { key: keyOf(d), measure: m }"
                >
                  <VerdictMark :verdict="verdictOf(of(d, m))!" :size="verdictOf(of(d, m)) === 'pass' ? 8 : 12" />
                </button>
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <RuleDetail :deliverable="chosen" :measure="hand?.measure ?? null" />
    </template>
  </div>
</template>

<style scoped>
.checks {
  height: 100%;
  display: flex;
}
.grid {
  flex: 1;
  min-width: 0;
  overflow: auto;
}
.bar {
  gap: 18px;
  padding: 9px 16px;
  font-size: 13px;
  position: sticky;
  left: 0;
  top: 0;
  background: var(--ground);
  z-index: 4;
  height: 38px;
}
.bar .row {
  gap: 6px;
}
table {
  margin: 0 16px 20px;
  font-size: 13px;
  border-collapse: separate;
  border-spacing: 0;
}
thead {
  position: sticky;
  top: 38px;
  background: var(--ground);
  box-shadow: 0 1px 0 var(--line);
  z-index: 3;
}
.rule {
  text-align: left;
  font-weight: 450;
  padding: 1px 14px 1px 0;
  white-space: nowrap;
  position: sticky;
  left: 0;
  background: var(--ground);
  z-index: 2;
  min-width: 150px;
}
tr.hand .rule {
  color: var(--crane);
}
.outlet {
  text-align: left;
  font-weight: 600;
  border-left: 1px solid var(--line);
  padding: 0 0 3px 6px;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
  max-width: 0;
}
.col {
  vertical-align: bottom;
  width: 32px;
}
th.col button {
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 6px;
  width: 32px;
  padding-bottom: 5px;
}
th.col {
  border-left: 1px solid transparent;
  font-weight: 450;
}
th.col.hand {
  color: var(--crane);
}
.vertical {
  writing-mode: vertical-rl;
  transform: rotate(180deg);
  height: 140px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  font-size: 12.5px;
  order: -1;
  text-align: left;
}
.group {
  text-align: left;
  font-size: 11.5px;
  color: var(--quiet);
  font-weight: 600;
  padding: 9px 0 2px;
  border-bottom: 1px solid var(--line);
}
td {
  text-align: center;
  padding: 0;
  height: 21px;
  border-bottom: 1px solid color-mix(in srgb, var(--line) 45%, transparent);
}
td.col,
tr.hand td {
  background: color-mix(in srgb, var(--raised) 55%, transparent);
}
td.hand {
  outline: 2px solid var(--crane);
  outline-offset: -2px;
}
.cellmark {
  background: none;
  border: 0;
  width: 32px;
  height: 20px;
  display: grid;
  place-items: center;
  cursor: pointer;
  padding: 0;
}
input[type='checkbox'] {
  accent-color: var(--crane);
}
</style>
