<script setup lang="ts">
import { groups as groupNames } from '../../core/measure/measure'
import { measureOf, measures } from '../../core/measure/registry'
import { blocks, worstVerdict, type Verdict } from '../../core/spec/judge'
import { overlaps, type FrameRange } from '../../core/time/range'
import type { Deliverable, DeliverableSummary } from '../../contract/deliverables'
import { keyText } from '../../core/deliverable/outlet'
import { marksOf, useDetail, type Mark } from '../lib/marks'
import { plural } from '../lib/text'
import { useEditor } from '../stores/editor'
import { useDeliverables } from '../stores/deliverables'
import { useShelf } from '../stores/shelf'
import { useTimelines } from '../stores/timelines'

type Result = Deliverable['results'][number]

const deliverables = useDeliverables()
const shelf = useShelf()
const timelines = useTimelines()
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
const detail = useDetail(() => chosen.value)
const results = computed(() => detail.value?.results.filter((r) => r.rule.measure === hand.value?.measure) ?? [])
const result = computed(
  (): Result | null =>
    results.value.find((r) => r.blocks) ??
    results.value.find((r) => r.verdict === 'caution') ??
    results.value[0] ??
    null,
)
const outletOf = (d: DeliverableSummary) => shelf.outlets.find((o) => o.id === d.outletId)
/** Others that fail the same rule and have a fix. */
const alike = computed(() => {
  const rule = result.value?.rule.id
  const outlet = chosen.value?.outletId
  return deliverables.all.filter((d) => d.outletId === outlet && marksOf(d).some((m) => m.rule.id === rule && m.fix))
})
const keyFor = (d: DeliverableSummary) => ({
  timelineId: d.timelineId,
  regionId: d.regionId,
  outletId: d.outletId,
})

function mend(list: readonly DeliverableSummary[]) {
  return deliverables.decide({ action: 'fix', keys: list.map(keyFor), rule: result.value!.rule.id })
}
const reason = ref('')
const initials = ref(localStorage.getItem('velvet.initials') ?? '')
watch(hand, () => (reason.value = ''))
async function waive() {
  localStorage.setItem('velvet.initials', initials.value)
  if (
    await deliverables.decide({
      action: 'waive',
      keys: [keyFor(chosen.value!)],
      rule: result.value!.rule.id,
      reason: reason.value,
      initials: initials.value,
    })
  )
    reason.value = ''
}
function see() {
  const r = desk.regions.find((x) => x.id === chosen.value?.regionId)
  if (!r) return
  const { pictures, sound } = timelines.current!.analysis
  const faults = sound?.faults
  const lists: Record<string, readonly FrameRange[] | undefined> = {
    black: pictures?.black,
    freeze: pictures?.freeze,
    flashes: pictures?.flashes,
    levels: pictures?.levels?.excursions ?? [],
    phase: faults?.phase ?? [],
    'sound-faults': faults ? [...faults.clicks, ...faults.dropouts, ...faults.phase].sort((a, b) => a.in - b.in) : [],
  }
  const at = lists[hand.value!.measure]?.find((x) => overlaps(x, r))?.in ?? r.in
  desk.select(r.id)
  desk.go(at)
  void navigateTo('/desk')
}
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
      <aside class="detail">
        <template v-if="result && chosen">
          <p class="quiet small">{{ regionName(chosen.regionId) }} for {{ outletOf(chosen)?.name }}</p>
          <h2 class="row">
            <VerdictMark :verdict="result.verdict" :size="15" /> {{ measureOf(result.rule.measure).label }}
          </h2>
          <p class="why">{{ result.why }}</p>
          <dl>
            <dt>Required</dt>
            <dd>
              {{ result.required }} <span class="quiet small">({{ result.rule.severity }})</span>
            </dd>
            <dt>Forecast</dt>
            <dd :class="{ decides: result.decidedBy === 'forecast' }">
              {{ result.forecast?.text ?? '—'
              }}<span v-if="result.forecast" class="quiet small from">{{ result.forecast.from }}</span>
            </dd>
            <dt>Source</dt>
            <dd :class="{ decides: result.decidedBy === 'source' }">
              {{ result.source?.text ?? '—'
              }}<span v-if="result.source" class="quiet small from">{{ result.source.from }}</span>
            </dd>
            <dt>As written</dt>
            <dd>{{ result.written?.text ?? 'when it is written' }}</dd>
            <dt>Clause</dt>
            <dd class="num small">{{ result.rule.clause }}</dd>
          </dl>
          <div v-if="result.fix" class="fix">
            <h3>What to change</h3>
            <p class="small">{{ result.fix.label }}</p>
            <div class="row">
              <Button size="small" label="Change this one" @click="mend([chosen])" /><Button
                v-if="alike.length > 1"
                size="small"
                severity="secondary"
                :label="`All ${alike.length} like it`"
                @click="mend(alike)"
              />
            </div>
          </div>
          <div v-if="result.waiver" class="fix">
            <h3>Waived</h3>
            <p class="small">{{ result.waiver.initials }}: {{ result.waiver.reason }}</p>
            <Button
              size="small"
              severity="secondary"
              label="Take the waiver back"
              @click="deliverables.decide({ action: 'unwaive', keys: [keyFor(chosen)], rule: result.rule.id })"
            />
          </div>
          <form v-else-if="result.blocks || result.verdict === 'caution'" class="fix" @submit.prevent="waive">
            <h3>Accept it as it is</h3>
            <InputText v-model="reason" size="small" placeholder="reason" aria-label="Reason" fluid />
            <div class="row">
              <InputText
                v-model="initials"
                size="small"
                placeholder="initials"
                aria-label="Initials"
                style="width: 84px"
              /><Button
                size="small"
                severity="secondary"
                type="submit"
                label="Waive"
                :disabled="!reason.trim() || !initials.trim()"
              />
            </div>
          </form>
          <div class="row go">
            <button class="plain small" @click="see()">See it at the desk</button
            ><NuxtLink class="small" :to="{ path: '/outlets', query: { outlet: chosen.outletId } }">Settings</NuxtLink>
          </div>
        </template>
        <p v-else class="quiet">Select a mark to read the rule behind it.</p>
      </aside>
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
.detail {
  width: 340px;
  flex: none;
  border-left: 1px solid var(--line);
  background: var(--surface);
  padding: 16px 18px;
  overflow: auto;
}
.detail h2 {
  gap: 9px;
  margin: 3px 0 7px;
}
.why {
  margin-bottom: 12px;
}
dl {
  display: grid;
  grid-template-columns: 84px 1fr;
  gap: 6px 8px;
  margin: 0 0 14px;
  font-size: 13.5px;
  border-top: 1px solid var(--line);
  padding-top: 11px;
}
dt {
  color: var(--quiet);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
.decides {
  font-weight: 600;
}
.from {
  margin-left: 7px;
  font-weight: 400;
}
.fix {
  border-top: 1px solid var(--line);
  padding: 10px 0 13px;
  display: flex;
  flex-direction: column;
  gap: 7px;
}
.go {
  gap: 18px;
  border-top: 1px solid var(--line);
  padding-top: 10px;
}
.go .plain {
  color: var(--crane);
  text-decoration: underline;
}
input[type='checkbox'] {
  accent-color: var(--crane);
}
</style>
