<script setup lang="ts">
import { collisions } from '../../core/deliverable/versions'
import type { Overrides, Recipe } from '../../core/recipe/recipe'
import type { Setting } from '../../core/recipe/settings'
import { formatLength } from '../../core/time/timecode'
import { bytesText, plural } from '../lib/text'
import { useEditor } from '../stores/editor'
import { useDeliverables } from '../stores/deliverables'
import { useShelf } from '../stores/shelf'
import { useTimelines } from '../stores/timelines'
import type { DeliverableSummary } from '../../contract/deliverables'
import { withOverrides } from '../../core/recipe/registry'
import { useDetail } from '../lib/marks'
import type { Outlet } from '../../core/deliverable/outlet'

const deliverables = useDeliverables()
const shelf = useShelf()
const timelines = useTimelines()
const desk = useEditor()
const route = useRoute()
/** The deliverable in hand: a region for an outlet; without a region, the outlet as a whole. */
const hand = ref<{ outletId: string; regionId: string | null }>({
  outletId: (route.query.outlet as string | undefined) ?? shelf.outlets[0]?.id ?? '',
  regionId: desk.current?.id ?? null,
})
const outlet = computed(
  (): Outlet | null => shelf.outlets.find((o) => o.id === hand.value.outletId) ?? shelf.outlets[0] ?? null,
)
const byCell = computed(() => new Map(deliverables.ofTimeline.map((d) => [`${d.regionId}/${d.outletId}`, d])))
const cell = computed(
  (): DeliverableSummary | null => byCell.value.get(`${hand.value.regionId}/${outlet.value?.id}`) ?? null,
)
const detail = useDetail(() => cell.value)
const recipe = computed((): Recipe | null => {
  const base = outlet.value?.recipe
  return base && cell.value ? withOverrides(base, cell.value.overrides) : (base ?? null)
})
const own = computed(() => deliverables.all.filter((d) => d.outletId === outlet.value?.id))
const longest = computed(() =>
  own.value.reduce<DeliverableSummary | null>((a, d) => (!a || d.path.length > a.path.length ? d : a), null),
)
const doubled = computed(() => [...collisions(own.value.map((d) => d.path.replace(/_v\d+(?=\.[^.]+$)/, ''))).values()])
const fileName = (p: string) => p.split('/').at(-1)!
const specName = (id: string) => shelf.specs.find((s) => s.id === id)?.name ?? id

const cellsOf = (regions: readonly { id: string }[], outletId: string) =>
  regions.map((r) => ({ timelineId: desk.id, regionId: r.id, outletId }))
const columnOn = (o: string) => desk.regions.length > 0 && desk.regions.every((r) => byCell.value.has(`${r.id}/${o}`))
const rowOn = (r: string) => shelf.outlets.length > 0 && shelf.outlets.every((o) => byCell.value.has(`${r}/${o.id}`))

// painting: press on a mark and draw over others
let painting: boolean | null = null
const painted = ref(new Map<string, boolean>())
const isOn = (r: string, o: string) => painted.value.get(`${r}/${o}`) ?? byCell.value.has(`${r}/${o}`)
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

function set(values: Overrides) {
  if (!outlet.value) return
  if (cell.value)
    void deliverables.decide({
      action: 'override',
      keys: [{ timelineId: desk.id, regionId: cell.value.regionId, outletId: outlet.value.id }],
      values,
    })
  else void shelf.save({ ...outlet.value, recipe: { ...outlet.value.recipe, ...values } })
}
function reset(s: Setting) {
  if (cell.value)
    void deliverables.decide({
      action: 'override',
      keys: [{ timelineId: desk.id, regionId: cell.value.regionId, outletId: cell.value.outletId }],
      values: {},
      reset: [s],
    })
}
/** Makes the values of this one the outlet's own. */
async function forAll() {
  if (!outlet.value || !cell.value) return
  const keys = Object.keys(cell.value.overrides)
  await shelf.save({ ...outlet.value, recipe: { ...outlet.value.recipe, ...cell.value.overrides } })
  await deliverables.decide({
    action: 'override',
    keys: [{ timelineId: desk.id, regionId: cell.value.regionId, outletId: cell.value.outletId }],
    values: {},
    reset: keys,
  })
}
const overriddenOf = (d: DeliverableSummary) => Object.keys(d.overrides).length
</script>

<template>
  <div class="outlets">
    <div v-if="!shelf.outlets.length" class="station">
      <h1>No outlets yet</h1>
      <p class="quiet">
        An outlet is who receives: a recipe, a spec, a name pattern and a folder.
        <NuxtLink to="/shelf">Make one on the Shelf</NuxtLink>
      </p>
    </div>
    <template v-else>
      <div class="naming">
        <div class="row spread">
          <h3>Names for {{ outlet?.name }}</h3>
          <span class="small quiet"
            >{{ plural(own.length, 'file') }} · {{ bytesText(own.reduce((n, d) => n + d.bytes, 0)) }} · into
            <span class="num">{{ outlet?.root }}/{{ outlet?.folder }}</span></span
          >
        </div>
        <PatternEditor
          v-if="outlet"
          :pattern="outlet.pattern"
          :extension="`.${outlet.recipe.container}`"
          @change="(p) => p !== outlet!.pattern && shelf.save({ ...outlet!, pattern: p })"
        />
        <div class="results small">
          <span
            ><span class="quiet">in hand</span>{{ ' ' }}
            <span class="num">{{ cell ? cell.path : 'no region in hand goes here' }}</span></span
          >
          <span v-if="longest"
            ><span class="quiet">longest, {{ fileName(longest.path).length }} characters</span>{{ ' ' }}
            <span class="num">{{ fileName(longest.path) }}</span></span
          >
          <span v-for="(c, i) in doubled" :key="i" class="red"
            >{{ plural(c.length, 'file') }} would be called
            <span class="num">{{ fileName(own[c[0]!]!.path) }}</span></span
          >
          <span v-if="!doubled.length" class="quiet">no two files get one name</span>
        </div>
      </div>
      <div class="body">
        <div class="matrix">
          <table>
            <thead>
              <tr>
                <th class="corner">
                  <span class="quiet small">{{ timelines.current?.name }}</span>
                </th>
                <th v-for="o in shelf.outlets" :key="o.id" :class="{ hand: o.id === outlet?.id }">
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
                  >
                </th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="(r, i) in desk.regions" :key="r.id">
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
                  :class="{ on: isOn(r.id, o.id), hand: r.id === hand.regionId && o.id === outlet?.id }"
                  @click="hand = { outletId: o.id, regionId: r.id }"
                  @pointerenter="enter(r.id, o.id)"
                >
                  <div class="cell">
                    <button
                      class="paint"
                      :aria-label="`${r.name} to ${o.name}`"
                      :aria-pressed="isOn(r.id, o.id)"
                      :title="
                        isOn(r.id, o.id) ? 'Take it off; draw to take off more' : 'Send it here; draw to send more'
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
                          {{ bytesText(byCell.get(`${r.id}/${o.id}`)!.bytes) }} ·
                          {{ formatLength(byCell.get(`${r.id}/${o.id}`)!.frames, timelines.current!.model) }}
                        </div>
                      </div>
                    </template>
                  </div>
                </td>
              </tr>
            </tbody>
          </table>
          <p v-if="!desk.regions.length" class="quiet pad">
            This timeline has no regions yet. <NuxtLink to="/desk">Split it at the Desk</NuxtLink>
          </p>
        </div>
        <aside v-if="outlet && recipe" class="side">
          <h3 v-if="cell">
            {{ desk.regions.find((r) => r.id === cell!.regionId)?.name }} <span class="quiet">for</span>
            {{ outlet.name }}
          </h3>
          <h3 v-else>{{ outlet.name }} <span class="quiet">as a whole</span></h3>
          <p class="small quiet">
            {{
              cell
                ? 'A value changed here counts for this one only.'
                : 'A value changed here counts for all its regions.'
            }}
          </p>
          <RecipeSettings
            :recipe="recipe"
            :overrides="cell ? cell.overrides : undefined"
            :base="outlet.recipe"
            @set="set"
            @reset="reset"
          />
          <div class="row" style="margin-top: 10px">
            <Button
              v-if="cell && overriddenOf(cell)"
              size="small"
              severity="secondary"
              :label="`Make it ${outlet.name}’s`"
              @click="forAll()"
            /><Button
              v-if="cell"
              size="small"
              severity="secondary"
              label="Whole outlet"
              @click="hand = { outletId: outlet.id, regionId: null }"
            />
          </div>
          <div v-if="cell" class="stack will">
            <h3>The file</h3>
            <p class="num small">{{ cell.path }}</p>
            <template v-if="detail">
              <p class="small">
                <span class="num">{{ bytesText(cell.bytes) }}</span> ·
                <template v-if="detail.output.video"
                  ><span class="num">{{ detail.output.video.width }}×{{ detail.output.video.height }}</span>
                  {{ detail.output.video.codec }}
                  <span class="num">{{ detail.output.video.bitDepth }}</span> bit · </template
                >{{
                  detail.output.audio ? `${detail.output.audio.channels} × ${detail.output.audio.codec}` : 'no sound'
                }}
                · starts <span class="num">{{ detail.output.start.label }}</span>
              </p>
              <ProblemNote v-for="p in detail.output.problems" :key="p.code" :problem="p" />
              <p v-for="n in detail.output.notes" :key="n" class="small quiet">{{ n }}</p>
            </template>
            <NuxtLink
              :to="{ path: '/checks', query: { deliverable: `${cell.timelineId}/${cell.regionId}/${cell.outletId}` } }"
              class="small row"
              ><VerdictMark :verdict="cell.verdict" word /> see its checks</NuxtLink
            >
          </div>
        </aside>
      </div>
    </template>
  </div>
</template>

<style scoped>
.outlets {
  height: 100%;
  display: flex;
  flex-direction: column;
}
.naming {
  padding: 12px 18px 10px;
  border-bottom: 1px solid var(--line);
  background: var(--surface);
  display: flex;
  flex-direction: column;
  gap: 7px;
  flex: none;
}
.results {
  display: flex;
  gap: 4px 22px;
  flex-wrap: wrap;
}
.body {
  flex: 1;
  min-height: 0;
  display: flex;
}
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
.corner {
  width: 186px;
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
  padding: 9px 8px 9px 14px;
  border-bottom: 1px solid var(--line);
  width: 186px;
}
.region .row {
  gap: 7px;
  min-width: 0;
}
td {
  border-bottom: 1px solid var(--line);
  border-left: 1px solid var(--line);
  padding: 6px 7px;
  height: 47px;
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
  font-size: 11.5px;
  padding-left: 15px;
}
.side {
  width: 306px;
  flex: none;
  border-left: 1px solid var(--line);
  background: var(--surface);
  padding: 14px 16px;
  overflow: auto;
}
.side .small {
  margin: 3px 0 9px;
}
.will {
  border-top: 1px solid var(--line);
  margin-top: 14px;
  padding-top: 10px;
  word-break: break-all;
}
.will .small {
  word-break: normal;
  overflow-wrap: anywhere;
  margin: 2px 0;
}
.pad {
  padding: 24px;
}
input[type='checkbox'] {
  accent-color: var(--crane);
}
</style>
