<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import type { ShownTimeline } from '../../../contract/timelines'
import { isTyping } from '../../lib/keys'
import { useEditor } from '../../stores/editor'
import { useRows, type Row } from '../../stores/rows'

/** Regions as a plain table, for when there is more to type than to look at; several are changed at once. */
defineProps<{ timeline: ShownTimeline }>()
const desk = useEditor()
const rows = useRows()
const rowHeight = 31
const list = ref<HTMLElement>()
const filters = ref<{ focus(): void }>()
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
useEventListener(
  window,
  'keydown',
  (e: KeyboardEvent) => {
    if (isTyping(e)) return
    const actions: Record<string, () => void> = {
      ArrowDown: () => step(1, e),
      ArrowUp: () => step(-1, e),
      '/': () => filters.value?.focus(),
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
      <RegionFilters ref="filters" />
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
            <RegionLine
              :row="r"
              :timeline="timeline"
              :data-row="index"
              :style="{ height: `${rowHeight}px`, ...grid }"
              @click="select(r, $event)"
              @next="typeInto(index + $event.by, $event.column)"
            />
          </template>
        </LongRows>
      </div>
    </div>
    <ChangeSeveral />
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
.list {
  flex: 1;
  min-height: 0;
  overflow: auto;
}
.empty {
  padding: 26px 18px;
}
.names,
.table :deep(.line) {
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
.names button {
  color: var(--quiet);
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>
