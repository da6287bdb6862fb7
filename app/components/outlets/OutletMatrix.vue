<script setup lang="ts">
import type { DeliverableSummary } from '../../../contract/deliverables'
import { asksFor, type Outlet } from '../../../core/deliverable/outlet'
import { regionKinds } from '../../../core/split/kinds'
import type { Region } from '../../../core/split/region'
import { listed } from '../../../core/text'
import { sizeText } from '../../lib/text'
import { useDeliverables } from '../../stores/deliverables'
import { useEditor } from '../../stores/editor'
import { useShelf } from '../../stores/shelf'
import { useTimelines } from '../../stores/timelines'

/** Which region goes to which outlet, region by region, painted with the pointer. */
const hand = defineModel<{ outletId: string; regionId: string | null }>('hand', { required: true })
defineProps<{ outletId: string | null }>()
const deliverables = useDeliverables()
const shelf = useShelf()
const timelines = useTimelines()
const desk = useEditor()
const byCell = computed(() => new Map(deliverables.ofTimeline.map((d) => [`${d.regionId}/${d.outletId}`, d])))
const fileName = (p: string) => p.split('/').at(-1)!
const specName = (id: string) => shelf.specs.find((s) => s.id === id)?.name ?? id
const overriddenOf = (d: DeliverableSummary) => Object.keys(d.overrides).length

const cellsOf = (regions: readonly { id: string }[], outletId: string) =>
  regions.map((r) => ({ timelineId: desk.id, regionId: r.id, outletId }))
const rowHeight = 48

const columnOn = (o: string) => desk.regions.length > 0 && desk.regions.every((r) => byCell.value.has(`${r.id}/${o}`))
const rowOn = (r: string) => shelf.outlets.length > 0 && shelf.outlets.every((o) => byCell.value.has(`${r}/${o.id}`))

// painting: press on a mark and draw over others
let painting: boolean | null = null
const painted = ref(new Map<string, boolean>())
const isOn = (r: string, o: string) => painted.value.get(`${r}/${o}`) ?? byCell.value.has(`${r}/${o}`)
/** Regions that an outlet asks for and is not sent, by outlet. */
const asked = computed(
  () =>
    new Map(
      shelf.outlets.map((o) => [
        o.id,
        desk.regions.filter((r) => asksFor(o, r) && !byCell.value.has(`${r.id}/${o.id}`)),
      ]),
    ),
)
const isAsked = (r: Region, o: Outlet) => asksFor(o, r) && !isOn(r.id, o.id)
const kindsOf = (o: Outlet) =>
  listed(
    (o.kinds ?? []).map((k) => regionKinds[k].many),
    'and',
  )
function press(r: string, o: string) {
  painting = !isOn(r, o)
  enter(r, o)
  window.addEventListener('pointerup', release, { once: true })
}
function enter(r: string, o: string) {
  if (painting === null || isOn(r, o) === painting) return
  painted.value = new Map(painted.value).set(`${r}/${o}`, painting)
}
async function release() {
  const on = painting
  painting = null
  const cells = [...painted.value.keys()].map((k) => {
    const [regionId, outletId] = k.split('/') as [string, string]
    return { timelineId: desk.id, regionId, outletId }
  })
  if (on !== null && cells.length) await deliverables.setChosen(cells, on)
  painted.value = new Map()
}
</script>

<template>
  <div class="matrix">
    <table :style="{ minWidth: `${186 + 156 * shelf.outlets.length}px` }">
      <thead>
        <tr>
          <th class="corner">
            <span class="quiet small">{{ timelines.current?.name }}</span>
          </th>
          <th v-for="o in shelf.outlets" :key="o.id" :class="{ hand: o.id === outletId }">
            <button class="plain head" @click="hand = { outletId: o.id, regionId: hand.regionId }">
              <strong>{{ o.name }}</strong><span class="quiet small">{{ o.recipe.name }}</span
              ><span class="quiet small">{{ specName(o.spec) }}</span>
            </button>
            <label class="small quiet all"
              ><input
                type="checkbox"
                :checked="columnOn(o.id)"
                @change="
                  deliverables.setChosen(cellsOf(desk.regions, o.id), ($event.target as HTMLInputElement).checked)
                "
              />
              all regions</label
            ><button
              v-if="asked.get(o.id)?.length"
              class="plain small asks"
              :title="`${o.name} asks for ${kindsOf(o)}`"
              @click="deliverables.setChosen(cellsOf(asked.get(o.id)!, o.id), true)"
            >
              send {{ asked.get(o.id)!.length }} it asks for
            </button>
          </th>
        </tr>
      </thead>
      <LongRows v-slot="{ item: r, index: i }" :items="desk.regions" :key-of="(r) => r.id" :row-height="rowHeight">
        <tr :style="{ height: `${rowHeight}px` }">
          <th class="region" :class="{ hand: r.id === hand.regionId }">
            <div class="row">
              <input
                type="checkbox"
                :checked="rowOn(r.id)"
                :aria-label="`${r.name} to all outlets`"
                @change="
                  deliverables.setChosen(
                    shelf.outlets.map((o) => ({ timelineId: desk.id, regionId: r.id, outletId: o.id })),
                    ($event.target as HTMLInputElement).checked,
                  )
                "
              /><span class="num quiet">{{ String(i + 1).padStart(2, '0') }}</span
              ><span class="clip">{{ r.name || 'without a name' }}</span>
            </div>
          </th>
          <td
            v-for="o in shelf.outlets"
            :key="o.id"
            :class="{ on: isOn(r.id, o.id), hand: r.id === hand.regionId && o.id === outletId }"
            @click="hand = { outletId: o.id, regionId: r.id }"
            @pointerenter="enter(r.id, o.id)"
          >
            <div class="cell">
              <button
                class="paint"
                :class="{ asked: isAsked(r, o) }"
                :aria-label="`${r.name} to ${o.name}`"
                :aria-pressed="isOn(r.id, o.id)"
                :title="
                  isOn(r.id, o.id)
                    ? 'Take it off; draw to take off more'
                    : isAsked(r, o)
                      ? `${o.name} asks for ${kindsOf(o)}: send it here`
                      : 'Send it here; draw to send more'
                "
                @pointerdown.stop.prevent="press(r.id, o.id)"
                @keydown.enter.prevent="deliverables.setChosen(cellsOf([r], o.id), !isOn(r.id, o.id))"
                @keydown.space.prevent="deliverables.setChosen(cellsOf([r], o.id), !isOn(r.id, o.id))"
              >
                <span />
              </button>
              <template v-if="byCell.get(`${r.id}/${o.id}`)">
                <div class="grow">
                  <div class="row">
                    <VerdictMark :verdict="byCell.get(`${r.id}/${o.id}`)!.verdict" :size="10" /><span
                      class="num clip name"
                      :class="{ over: overriddenOf(byCell.get(`${r.id}/${o.id}`)!) }"
                      :title="byCell.get(`${r.id}/${o.id}`)!.path"
                      >{{ fileName(byCell.get(`${r.id}/${o.id}`)!.path) }}</span
                    >
                  </div>
                  <div class="num quiet facts">
                    <span>{{ sizeText(byCell.get(`${r.id}/${o.id}`)!) }}</span>{{ ' ' }}
                    <span>{{ byCell.get(`${r.id}/${o.id}`)!.length }}</span>
                  </div>
                </div>
              </template>
            </div>
          </td>
        </tr>
      </LongRows>
    </table>
    <p v-if="!desk.regions.length" class="quiet pad">
      This timeline has no regions yet. <NuxtLink to="/desk">Split it at the Desk</NuxtLink>
    </p>
  </div>
</template>

<style scoped>
.matrix {
  flex: 1;
  overflow: auto;
  min-width: 0;
}
table {
  width: 100%;
  table-layout: fixed;
  font-size: 13px;
}
th {
  text-align: left;
  font-weight: 500;
  vertical-align: top;
}
thead th {
  position: sticky;
  top: 0;
  background: var(--ground);
  border-bottom: 1px solid var(--line);
  padding: 9px 8px 6px;
  z-index: 2;
}
thead th.hand {
  box-shadow: inset 0 -2px 0 var(--crane);
}
/* names of regions stay in sight beside many outlets */
.corner,
.region {
  position: sticky;
  left: 0;
  width: 186px;
  background: var(--ground);
  z-index: 1;
}
thead .corner {
  z-index: 3;
}
.head {
  display: flex;
  flex-direction: column;
  width: 100%;
}
.all {
  display: flex;
  gap: 5px;
  align-items: center;
  margin-top: 3px;
}
.region {
  padding: 0 8px 0 14px;
  vertical-align: middle;
  border-bottom: 1px solid var(--line);
}
.region .row {
  gap: 7px;
  min-width: 0;
}
td {
  border-bottom: 1px solid var(--line);
  border-left: 1px solid var(--line);
  padding: 0 7px;
  box-sizing: border-box;
  cursor: default;
}
td.on {
  background: var(--surface);
}
td.hand {
  outline: 2px solid var(--crane);
  outline-offset: -2px;
}
.cell {
  display: flex;
  gap: 7px;
  align-items: start;
  min-width: 0;
}
.cell .row {
  gap: 5px;
  min-width: 0;
}
.paint {
  width: 13px;
  height: 13px;
  flex: none;
  margin-top: 3px;
  border: 1.4px solid var(--quiet);
  background: none;
  border-radius: 2px;
  padding: 0;
  display: grid;
  place-items: center;
  cursor: pointer;
  touch-action: none;
}
/* asked for, not sent */
.paint.asked {
  border: 1.6px dashed var(--ochre);
}
.asks {
  color: var(--ochre);
}
td.on .paint {
  border-color: var(--crane);
}
td.on .paint span {
  width: 7px;
  height: 7px;
  background: var(--crane);
  display: block;
}
.name {
  font-size: 12px;
  min-width: 0;
}
.name.over {
  text-decoration: underline;
  text-decoration-color: var(--crane);
  text-underline-offset: 3px;
}
.facts {
  display: flex;
  justify-content: space-between;
  gap: 6px;
  font-size: 11px;
  white-space: nowrap;
  padding-left: 8px;
}
.pad {
  padding: 24px;
}
input[type='checkbox'] {
  accent-color: var(--crane);
}
</style>
