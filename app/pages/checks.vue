<script setup lang="ts">
import { isTyping } from '../lib/keys'
import { groups as groupNames } from '../../core/measure/measure'
import { grouped } from '../../core/group'
import { measureOf, measures } from '../../core/measure/registry'
import { blocks, type Verdict } from '../../core/spec/judge'
import type { DeliverableSummary } from '../../contract/deliverables'
import { keyText } from '../../core/deliverable/outlet'
import { useInView } from '../lib/inview'
import { groupWords, marksOf, type Mark } from '../lib/marks'
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
  const place = new Map(shelf.outlets.map((o, i) => [o.id, i]))
  const list = deliverables.ofTimeline.filter((d) => !onlyTrouble.value || d.trouble.length > 0)
  return [...list].sort((a, b) => (place.get(a.outletId) ?? 0) - (place.get(b.outletId) ?? 0))
})
/** An outlet takes as many slots as it has columns, and at least what its name needs to be read. */
const leastSlots = 3
/** Columns in their slots, and outlets with where theirs begin and how many they are. */
const laid = computed(() => {
  const slots: (DeliverableSummary | null)[] = []
  const outlets = [...grouped(columns.value, (d) => d.outletId)].map(([id, own]) => {
    const [from, count] = [slots.length, Math.max(leastSlots, own.length)]
    slots.push(...own, ...Array<null>(count - own.length).fill(null))
    return { id, name: shelf.outlets.find((o) => o.id === id)?.name ?? id, from, count }
  })
  return { slots, outlets }
})
const of = (d: DeliverableSummary, m: string) => marksOf(d).filter((r) => r.rule.measure === m)
const groups = computed(() => {
  const troubled = (r: Mark) => blocks(r.rule, r.verdict) || r.verdict === 'caution'
  const asked = new Set<string>()
  for (const d of columns.value)
    for (const r of marksOf(d)) if (!onlyTrouble.value || troubled(r)) asked.add(r.rule.measure)
  return groupNames
    .map((g) => ({
      name: groupWords[g],
      list: measures.filter((m) => m.group === g && asked.has(m.name)).map((m) => m.name),
    }))
    .filter((g) => g.list.length)
})
const regions = computed(() => {
  const digits = Math.max(2, String(desk.regions.length).length)
  const about = (name: string, i: number) => ({
    name: name || 'without a name',
    number: String(i + 1).padStart(digits, '0'),
  })
  return new Map(desk.regions.map((r, i) => [r.id, about(r.name, i)]))
})
const aboutRegion = (id: string) => regions.value.get(id) ?? { name: 'without a name', number: '00' }

const grid = ref<HTMLElement | null>(null)
const [columnWidth, rulesWidth] = [32, 186]
const sheet = ref<HTMLElement | null>(null)
const { first, end } = useInView(sheet, 'x', columnWidth, () => laid.value.slots.length)

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
const counts = computed(() => {
  const out: Record<Verdict, number> = { pass: 0, caution: 0, fail: 0, waived: 0, unmeasured: 0, later: 0 }
  for (const d of deliverables.ofTimeline) for (const r of marksOf(d)) out[r.verdict]++
  return out
})
/** Brings the column in hand into view, beside the names of rules. */
watch(
  () => laid.value.slots.findIndex((c) => c && keyOf(c) === hand.value?.key),
  async (i) => {
    await nextTick()
    const el = grid.value
    if (i < 0 || !el) return
    const [left, room] = [i * columnWidth, el.clientWidth - rulesWidth - columnWidth]
    if (left < el.scrollLeft) el.scrollLeft = left
    else if (left > el.scrollLeft + room) el.scrollLeft = left - room
  },
  { immediate: true },
)

function key(e: KeyboardEvent) {
  if (!hand.value || isTyping(e)) return
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
      <div ref="grid" class="grid">
        <div class="row bar">
          <span class="row"><VerdictMark verdict="fail" /> {{ plural(counts.fail, 'fail') }}</span
          ><span class="row"><VerdictMark verdict="caution" /> {{ plural(counts.caution, 'caution') }}</span
          ><span class="row"><VerdictMark verdict="waived" /> {{ counts.waived }} waived</span
          ><span class="row"><VerdictMark verdict="unmeasured" /> {{ counts.unmeasured }} unmeasured</span
          ><span class="grow" /><label class="row small"
            ><input v-model="onlyTrouble" type="checkbox" /> only what needs attention</label
          >
        </div>
        <div class="sheet">
          <div class="rules" :style="{ width: `${rulesWidth}px` }">
            <div class="corner" />
            <template v-for="g in groups" :key="g.name">
              <div class="group">{{ g.name }}</div>
              <div v-for="m in g.list" :key="m" class="rule" :class="{ hand: hand?.measure === m }">
                {{ measureOf(m).label }}
              </div>
            </template>
          </div>
          <div ref="sheet" class="columns" :style="{ width: `${laid.slots.length * columnWidth}px` }">
            <div class="outlets">
              <div
                v-for="o in laid.outlets"
                :key="o.id"
                class="outlet"
                :style="{ left: `${o.from * columnWidth}px`, width: `${o.count * columnWidth}px` }"
              >
                <span :style="{ left: `${rulesWidth + 6}px` }" :title="o.name">{{ o.name }}</span>
              </div>
            </div>
            <!-- a column that leaves is used again for the one that comes: made anew, they would not keep up -->
            <template v-for="(d, i) in laid.slots.slice(first, end)" :key="(first + i) % (end - first)">
              <CheckColumn
                v-if="d"
                :style="{ left: `${(first + i) * columnWidth}px` }"
                :deliverable="d"
                :name="aboutRegion(d.regionId).name"
                :number="aboutRegion(d.regionId).number"
                :groups="groups"
                :row="hand?.measure ?? null"
                :hand="hand?.key === keyOf(d)"
                @head="firstTrouble(keyOf(d))"
                @take="hand = { key: keyOf(d), measure: $event }"
              />
            </template>
          </div>
        </div>
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
.sheet {
  display: flex;
  width: max-content;
  padding-bottom: 20px;
  font-size: 13px;
}
.rules {
  position: sticky;
  left: 0;
  padding-left: 16px;
  background: var(--ground);
  z-index: 3;
  flex: none;
}
.corner {
  position: sticky;
  top: 38px;
  height: 192px;
  background: var(--ground);
  border-bottom: 1px solid var(--line);
}
.rule {
  font-weight: 450;
  height: 21px;
  line-height: 21px;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.rule.hand {
  color: var(--crane);
}
.group {
  font-size: 11.5px;
  color: var(--quiet);
  font-weight: 600;
  height: 27px;
  padding-top: 9px;
  border-bottom: 1px solid var(--line);
}
.columns {
  position: relative;
  flex: none;
}
.outlets {
  position: sticky;
  top: 38px;
  height: 22px;
  margin-bottom: -22px;
  background: var(--ground);
  z-index: 2;
}
.outlet {
  position: absolute;
  top: 0;
  bottom: 0;
  border-left: 1px solid var(--line);
  font-weight: 600;
}
.outlet span {
  position: sticky;
  display: inline-block;
  max-width: 100%;
  padding: 0 6px;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
input[type='checkbox'] {
  accent-color: var(--crane);
}
</style>
