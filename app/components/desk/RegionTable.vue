<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import type { ShownTimeline } from '../../../contract/timelines'
import { findingWords } from '../../../core/split/audit/finding'
import { regionChanges } from '../../../core/split/changes/registry'
import { kindNames, regionKinds } from '../../../core/split/kinds'
import type { FrameRange } from '../../../core/time/range'
import { formatLength, formatTimecode } from '../../../core/time/timecode'
import { isTyping } from '../../lib/keys'
import { plural } from '../../lib/text'
import { useEditor } from '../../stores/editor'
import { useRows, type Row } from '../../stores/rows'
import { useShelf } from '../../stores/shelf'

/** Regions as a plain table, for when there is more to type than to look at; several are changed at once. */
const props = defineProps<{ timeline: ShownTimeline }>()
const desk = useEditor()
const rows = useRows()
const shelf = useShelf()
const rowHeight = 31
const list = ref<HTMLElement>()
const filter = ref<HTMLInputElement>()
const base = computed(() => props.timeline.model)
/** All rows have the same columns: their widths follow from the table's, never from what stands in them. */
const grid = computed(() => {
  const papers = rows.papers.map(() => 'minmax(0, 1fr)').join(' ')
  return {
    gridTemplateColumns: `40px minmax(0, 1.7fr) 92px 92px 80px 92px ${papers} 48px minmax(0, 2.2fr)`,
    minWidth: `${850 + 120 * rows.papers.length}px`,
  }
})
const heads = computed(() => [
  { order: 'no', label: 'No.' },
  { order: 'name', label: 'Name' },
  { order: 'no', label: 'First frame' },
  { order: 'no', label: 'Last frame' },
  { order: 'length', label: 'Length' },
  { order: 'kind', label: 'Kind' },
  ...rows.papers.map((p) => ({ order: p, label: p })),
  { order: 'faults', label: 'Faults' },
  { order: 'outlets', label: 'Outlets' },
])
const arrow = (order: string, label: string) =>
  rows.order === order && (order !== 'no' || label === 'No.') ? (rows.descending ? ' ▾' : ' ▴') : ''
const label = (n: number) => formatTimecode(base.value.start + n, base.value)
const lengthOf = (r: FrameRange) => formatLength(r.out - r.in, base.value)
const outletName = (id: string) => shelf.outlets.find((o) => o.id === id)?.name ?? id

async function open(field: string, files: FileList | null) {
  const [f] = files ?? []
  if (f) rows.type(field, await f.text())
}
function select(r: Row, e: MouseEvent | KeyboardEvent) {
  if (e.shiftKey && desk.anchor) {
    const ids = rows.shown.map((x) => x.region.id)
    const [a, b] = [ids.indexOf(desk.anchor), ids.indexOf(r.region.id)].sort((x, y) => x - y)
    if (a !== undefined && a >= 0) desk.selected = ids.slice(a, b! + 1)
  } else desk.select(r.region.id, e.ctrlKey || e.metaKey ? 'toggle' : 'only')
}
function step(by: 1 | -1, e: KeyboardEvent) {
  const at = rows.shown.findIndex((r) => r.region.id === desk.selected.at(by === 1 ? -1 : e.shiftKey ? 0 : -1))
  const next = rows.shown[at < 0 ? 0 : at + by]
  if (!next) return
  select(next, e)
  reveal(rows.shown.indexOf(next))
}
function reveal(index: number) {
  const el = list.value
  if (!el) return
  const y = index * rowHeight
  if (y < el.scrollTop) el.scrollTop = y
  else if (y + rowHeight * 2 > el.scrollTop + el.clientHeight) el.scrollTop = y + rowHeight * 2 - el.clientHeight
}
/** Puts the cursor into a field of a row. */
async function typeInto(index: number, column: string) {
  if (!rows.shown[index]) return
  reveal(index)
  await nextTick()
  const field = list.value?.querySelector<HTMLInputElement>(`[data-row="${index}"] [data-column="${column}"]`)
  field?.focus()
  field?.select()
}
/** Enter in a field goes to the same field of the next row, Shift+Enter to that before. */
const down = (e: KeyboardEvent, index: number, column: string) => typeInto(index + (e.shiftKey ? -1 : 1), column)
useEventListener(
  window,
  'keydown',
  (e: KeyboardEvent) => {
    if (isTyping(e)) return
    const actions: Record<string, () => void> = {
      ArrowDown: () => step(1, e),
      ArrowUp: () => step(-1, e),
      '/': () => filter.value?.focus(),
      Enter: () =>
        void typeInto(
          Math.max(
            0,
            rows.shown.findIndex((r) => r.region.id === desk.current?.id),
          ),
          'name',
        ),
    }
    const action = e.ctrlKey || e.metaKey ? undefined : actions[e.key]
    if (!action) return
    e.preventDefault()
    e.stopPropagation()
    action()
  },
  { capture: true },
)
onBeforeUnmount(() => rows.choose(''))
</script>

<template>
  <section class="table" aria-label="Region table">
    <div class="left">
      <div class="head">
        <h3>
          Regions
          <span class="num quiet">{{
            rows.filtered ? `${rows.shown.length} of ${desk.regions.length}` : desk.regions.length
          }}</span>
        </h3>
        <input
          ref="filter"
          v-model="rows.text"
          class="field box"
          placeholder="names and papers that hold …  ( / )"
          aria-label="Filter by text"
          spellcheck="false"
          @keydown.esc="rows.text = ''"
        />
        <select v-model="rows.outlet" class="box" aria-label="Filter by outlet">
          <option value="">any outlet</option>
          <option value="none">no outlet</option>
          <option v-for="o in shelf.outlets" :key="o.id" :value="o.id">{{ o.name }}</option>
        </select>
        <select v-model="rows.kind" class="box" aria-label="Filter by kind">
          <option value="">any kind</option>
          <option value="none">no kind</option>
          <option v-for="k in kindNames" :key="k" :value="k">{{ regionKinds[k].one }}</option>
        </select>
        <select v-model="rows.verdict" class="box" aria-label="Filter by verdict">
          <option value="">any verdict</option>
          <option v-for="v in ['fail', 'caution', 'unmeasured', 'waived', 'pass']" :key="v" :value="v">{{ v }}</option>
        </select>
        <select v-model="rows.fault" class="box" aria-label="Filter by fault">
          <option value="">faulty or not</option>
          <option value="any">any fault</option>
          <option v-for="([one], kind) in findingWords" :key="kind" :value="kind">{{ one }}</option>
        </select>
        <button v-if="rows.filtered" class="plain small quiet" @click="rows.showAll()">show all</button>
      </div>
      <p v-if="!desk.regions.length" class="empty quiet">There are no regions yet. <kbd>1</kbd> shows the strip.</p>
      <p v-else-if="!rows.shown.length" class="empty quiet">No region is like that.</p>
      <div v-else ref="list" class="list">
        <div class="names" :style="grid">
          <button
            v-for="h in heads"
            :key="h.label"
            class="plain small"
            :title="`In the order of: ${h.label.toLowerCase()}`"
            @click="rows.sortBy(h.order)"
          >
            {{ h.label }}{{ arrow(h.order, h.label) }}
          </button>
        </div>
        <LongRows :items="rows.shown" :key-of="(r) => r.region.id" :row-height="rowHeight" list>
          <template #default="{ item: r, index }">
            <div
              class="line"
              :class="{ chosen: desk.selected.includes(r.region.id) }"
              :data-row="index"
              :style="{ height: `${rowHeight}px`, ...grid }"
              @click="select(r, $event)"
            >
              <span class="num quiet no">{{ String(r.no).padStart(2, '0') }}</span>
              <span v-if="rows.changed.has(r.region.id)" class="clip" :title="`now ${r.region.name}`"
                ><span class="new">{{ rows.changed.get(r.region.id)!.name || 'without a name' }}</span
                ><span v-if="rows.changed.get(r.region.id)!.name !== r.region.name" class="quiet small">
                  was {{ r.region.name || 'without a name' }}</span
                ></span
              >
              <DraftInput
                v-else
                class="bare name"
                data-column="name"
                :value="r.region.name"
                placeholder="name this region"
                aria-label="Name"
                spellcheck="false"
                :refuse="(name) => desk.refused(r.region.id, name)"
                @change="desk.rename(r.region.id, $event.trim())"
                @keydown.enter="down($event, index, 'name')"
              />
              <template v-if="rows.changed.has(r.region.id)">
                <span class="num" :class="{ new: rows.changed.get(r.region.id)!.in !== r.region.in }">{{
                  label(rows.changed.get(r.region.id)!.in)
                }}</span>
                <span class="num" :class="{ new: rows.changed.get(r.region.id)!.out !== r.region.out }">{{
                  label(rows.changed.get(r.region.id)!.out - 1)
                }}</span>
              </template>
              <template v-else>
                <TimecodeField
                  :frame="r.region.in"
                  :base="base"
                  :start="base.start"
                  label="First frame"
                  @change="desk.trim(r.region.id, 'in', $event)"
                />
                <TimecodeField
                  :frame="r.region.out - 1"
                  :base="base"
                  :start="base.start"
                  label="Last frame"
                  @change="desk.trim(r.region.id, 'out', $event + 1)"
                />
              </template>
              <span class="num">{{ lengthOf(rows.changed.get(r.region.id) ?? r.region) }}</span>
              <span v-if="(rows.changed.get(r.region.id) ?? r.region).kind !== r.region.kind" class="new">{{
                rows.changed.get(r.region.id)!.kind ?? 'none'
              }}</span>
              <KindSelect v-else :region="r.region" />
              <template v-for="p in rows.papers" :key="p">
                <span
                  v-if="
                    rows.changed.has(r.region.id) && rows.changed.get(r.region.id)!.metadata[p] !== r.region.metadata[p]
                  "
                  class="new clip"
                  >{{ rows.changed.get(r.region.id)!.metadata[p] ?? 'none' }}</span
                >
                <DraftInput
                  v-else
                  class="bare num"
                  :data-column="p"
                  :value="r.region.metadata[p] ?? ''"
                  :aria-label="p"
                  placeholder="–"
                  spellcheck="false"
                  @change="desk.setMetadata(r.region.id, p, $event.trim())"
                  @keydown.enter="down($event, index, p)"
                />
              </template>
              <span class="num ochre" :title="r.faults.map((f) => f.text).join('\n')">{{ r.faults.length || '' }}</span>
              <span class="goes small clip">
                <span v-for="d in r.goes" :key="d.outletId" class="dest"
                  ><VerdictMark :verdict="d.verdict" :size="9" />{{ outletName(d.outletId) }}</span
                >
                <span v-if="!r.goes.length" class="quiet">goes nowhere yet</span>
              </span>
            </div>
          </template>
        </LongRows>
      </div>
    </div>
    <aside class="change" aria-label="Change several">
      <h3>Change several at once</h3>
      <p class="small quiet">
        Of what is selected when there are two or more, else of all that is shown:
        {{ plural(rows.meant.length, 'region') }}.
      </p>
      <div class="picks" role="radiogroup" aria-label="Change">
        <button
          v-for="c in regionChanges"
          :key="c.name"
          role="radio"
          :aria-checked="rows.change === c.name"
          :title="c.hint"
          @click="rows.choose(rows.change === c.name ? '' : c.name)"
        >
          {{ c.label }}
        </button>
      </div>
      <template v-if="rows.changing">
        <p class="small quiet">{{ rows.changing.hint }}</p>
        <SettingFields
          class="fields"
          :settings="rows.changing.settings"
          :values="rows.set"
          :wrong="rows.wrong"
          @type="rows.type"
        >
          <template #lines="{ field, setting }">
            <LinesField
              :text="String(rows.set[field])"
              :read="
                String(rows.set[field])
                  .split('\n')
                  .map((text) => ({ text, why: null }))
              "
              :placeholder="setting.hint ?? ''"
              :label="setting.label"
              @change="rows.type(field, $event)"
            />
            <label class="row small quiet"
              >File <input type="file" @change="open(field, ($event.target as HTMLInputElement).files)"
            /></label>
          </template>
        </SettingFields>
        <ProblemNote v-if="rows.outcome.problem" :problem="rows.outcome.problem" />
        <div class="row">
          <Button
            size="small"
            :disabled="!rows.changed.size"
            :label="rows.changed.size ? `Change ${plural(rows.changed.size, 'region')}` : 'Nothing to change'"
            @click="rows.apply()"
          />
          <button class="plain small quiet" @click="rows.choose('')">leave it</button>
        </div>
      </template>
      <h3>Send them to</h3>
      <div class="outlets">
        <label v-for="o in shelf.outlets" :key="o.id" class="row small">
          <input
            type="checkbox"
            :checked="rows.goingTo(o.id) === rows.meant.length && rows.meant.length > 0"
            :indeterminate="rows.goingTo(o.id) > 0 && rows.goingTo(o.id) < rows.meant.length"
            :disabled="!rows.meant.length"
            @change="rows.send(o.id, ($event.target as HTMLInputElement).checked)"
          />
          <span class="grow">{{ o.name }}</span><span class="num quiet"
            >{{ rows.goingTo(o.id) }} of {{ rows.meant.length }}</span
          >
        </label>
        <p v-if="!shelf.outlets.length" class="small quiet">There are no outlets yet.</p>
      </div>
    </aside>
  </section>
</template>

<style scoped>
.table {
  min-width: 0;
}
.left {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
}
.head {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 7px 12px;
  border-bottom: 1px solid var(--line);
  flex: none;
}
.head h3 {
  white-space: nowrap;
  margin-right: 6px;
}
.field {
  font-family: inherit;
  flex: 1;
  min-width: 120px;
}
.list {
  flex: 1;
  min-height: 0;
  overflow: auto;
}
.empty {
  padding: 26px 18px;
}
.names,
.line {
  display: grid;
  gap: 10px;
  align-items: center;
  padding: 0 12px;
}
.names {
  position: sticky;
  top: 0;
  background: var(--ground);
  border-bottom: 1px solid var(--line);
  height: 26px;
  z-index: 1;
}
.line {
  border-bottom: 1px solid var(--line);
  font-size: 12.5px;
}
.line:hover {
  background: var(--surface);
}
.line.chosen {
  background: var(--raised);
  box-shadow: inset 3px 0 0 var(--crane);
}
.name {
  font-weight: 600;
}
.names button {
  color: var(--quiet);
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.no {
  font-size: 12px;
}
.new {
  color: var(--crane);
}
.goes {
  display: flex;
  gap: 9px;
}
.dest {
  display: inline-flex;
  gap: 4px;
  align-items: center;
}
.change {
  width: 316px;
  flex: none;
  border-left: 1px solid var(--line);
  background: var(--surface);
  padding: 10px 14px;
  display: flex;
  flex-direction: column;
  gap: 10px;
  overflow-y: auto;
}
.fields {
  grid-template-columns: 104px 1fr;
}
</style>
