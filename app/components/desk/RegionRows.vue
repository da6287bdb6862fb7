<script setup lang="ts">
import type { ShownTimeline } from '../../../contract/timelines'
import { formatLength } from '../../../core/time/timecode'
import { isLookedAt, type Region } from '../../../core/split/region'
import { grouped } from '../../../core/group'
import { worstVerdict } from '../../../core/spec/judge'
import { isDelivered, type DeliverableSummary } from '../../../contract/deliverables'
import { becameText } from '../../lib/became'
import { useAudit } from '../../stores/audit'
import { useEditor } from '../../stores/editor'
import { useDeliverables } from '../../stores/deliverables'
import { useShelf } from '../../stores/shelf'
import { useSplitting } from '../../stores/splitting'

/** Regions as rows: what it is → where it goes → what is wrong with it. Only the visible ones are in the page. */
const props = defineProps<{ timeline: ShownTimeline; rowHeight: number; head: number }>()
const emit = defineEmits<{ scroll: [top: number] }>()
const desk = useEditor()
const audit = useAudit()
const deliverables = useDeliverables()
const shelf = useShelf()
const splitting = useSplitting()
const list = ref<HTMLElement>()
const faults = computed(() => {
  const out = new Map<string, string[]>()
  for (const f of audit.findings) for (const id of f.regions) out.set(id, [...(out.get(id) ?? []), f.text])
  return out
})
const goingTo = computed(() => grouped(deliverables.ofTimeline, (d) => d.regionId))
const fileName = (p: string) => p.split('/').at(-1)!
function aboutDeliverable(d: DeliverableSummary): string {
  const held = d.trouble.filter((x) => x.blocks).map((x) => x.why)
  const was = d.became ? `${becameText(d)} ${fileName(d.became.path)}` : becameText(d)
  return `${outletName(d.outletId)}: ${held.join(' ') || 'nothing fails'} · ${was}`
}
const outletName = (id: string) => shelf.outlets.find((o) => o.id === id)?.name ?? id

function select(r: Region, e: MouseEvent) {
  desk.select(r.id, e.ctrlKey || e.metaKey ? 'toggle' : e.shiftKey ? 'range' : 'only')
  if (!(e.ctrlKey || e.metaKey || e.shiftKey)) desk.go(r.in)
}
function beginName(r: Region) {
  desk.naming = r.id
  if (!desk.selected.includes(r.id)) desk.select(r.id)
}
/** Tab goes from name to name. */
function nextName(e: KeyboardEvent, r: Region) {
  const next = desk.regions[desk.regions.findIndex((x) => x.id === r.id) + (e.shiftKey ? -1 : 1)]
  if (!next) return
  e.preventDefault()
  ;(e.target as HTMLInputElement).blur()
  desk.select(next.id)
  desk.naming = next.id
}
async function reveal(id: string) {
  const i = desk.regions.findIndex((r) => r.id === id)
  const el = list.value
  if (i < 0 || !el) return
  const y = i * props.rowHeight
  if (y < el.scrollTop) el.scrollTop = y
  else if (y + props.rowHeight > el.scrollTop + el.clientHeight) el.scrollTop = y + props.rowHeight - el.clientHeight
  await nextTick()
}
watch(
  () => desk.naming,
  async (id) => {
    if (!id) return
    await nextTick()
    await reveal(id)
    await nextTick()
    const input = list.value?.querySelector<HTMLInputElement>(`[data-region="${id}"] input.name`)
    input?.focus()
    input?.select()
  },
)
watch(
  () => desk.current?.id,
  (id) => id && void reveal(id),
)
</script>

<template>
  <section class="rows" aria-label="Regions">
    <div class="head" :style="{ height: `${head}px` }">
      <h3>
        Regions <span class="num quiet">{{ desk.regions.length }}</span>
      </h3>
      <span class="row">
        <button
          class="act"
          title="Ways to split, each looked at before it is done (S)"
          :aria-pressed="splitting.open"
          @click="splitting.toggle()"
        >
          split by … <kbd>S</kbd>
        </button>
        <button
          class="act"
          :disabled="!desk.shotsSelected.length"
          :title="`One region for each selected ${desk.alone ? 'stretch' : 'shot'} (Shift+Enter)`"
          @click="desk.makeFromShots()"
        >
          {{ desk.alone ? 'from stretches' : 'from shots' }}
        </button>
        <button
          class="act"
          :title="`Region of the marked range, or of the ${desk.alone ? 'stretch' : 'shot'} under the playhead (Enter)`"
          @click="desk.makeRegion()"
        >
          + region <kbd>⏎</kbd>
        </button>
      </span>
    </div>
    <p v-if="!desk.regions.length" class="empty">
      Nothing is split yet. Drag over the strip to mark a range, or put the playhead
      {{ desk.alone ? 'between two markers' : 'on a shot' }}, and press <kbd>Enter</kbd>. <kbd>S</kbd> shows all ways to
      split: at black or silence, by markers, from pasted lines and more. With <kbd>Ctrl</kbd>+click select several
      {{ desk.alone ? 'stretches' : 'shots' }} and press <kbd>Shift+Enter</kbd> for a region of each.
    </p>
    <div
      v-else
      ref="list"
      class="list"
      :tabindex="-1"
      @scroll="emit('scroll', ($event.target as HTMLElement).scrollTop)"
    >
      <LongRows :items="desk.regions" :key-of="(r) => r.id" :row-height="rowHeight" list>
        <template #default="{ item: r, index }">
          <div
            class="region"
            :class="{ chosen: desk.selected.includes(r.id) }"
            :data-region="r.id"
            :style="{ height: `${rowHeight}px` }"
            @click="select(r, $event)"
          >
            <div class="row top">
              <span class="num no">{{ String(index + 1).padStart(2, '0') }}</span>
              <DraftInput
                class="bare name grow"
                :value="r.name"
                placeholder="name this region"
                :aria-label="`Name of region ${index + 1}`"
                spellcheck="false"
                :refuse="(name) => desk.refused(r.id, name)"
                @change="desk.rename(r.id, $event.trim())"
                @keydown.tab="nextName($event, r)"
                @keydown.stop
                @focus="beginName(r)"
                @blur="desk.naming === r.id && (desk.naming = null)"
                @click.stop="desk.select(r.id)"
              />
              <span class="num length" title="Length">{{ formatLength(r.out - r.in, timeline.model) }}</span>
            </div>
            <div class="row times num">
              <TimecodeField
                :frame="r.in"
                :base="timeline.model"
                :start="timeline.model.start"
                label="First frame"
                @change="desk.trim(r.id, 'in', $event)"
              />
              <span class="quiet">→</span>
              <TimecodeField
                :frame="r.out - 1"
                :base="timeline.model"
                :start="timeline.model.start"
                label="Last frame"
                @change="desk.trim(r.id, 'out', $event + 1)"
              />
              <span class="quiet last">last</span>
              <span v-if="isLookedAt(r)" class="last moss" title="The pictures at its ends were looked at (3)"
                >· ends ✓</span
              >
              <span class="grow" />
              <KindSelect :region="r" />
            </div>
            <div class="row goes">
              <span v-for="d in goingTo.get(r.id) ?? []" :key="d.outletId" class="dest" :title="aboutDeliverable(d)"
                ><VerdictMark :verdict="worstVerdict([d.verdict])" :size="9" />{{ outletName(d.outletId)
                }}<NuxtLink
                  v-if="d.became"
                  :to="{ path: '/handover', query: { item: d.became.id } }"
                  class="became"
                  :class="{ changed: !isDelivered(d) }"
                  :aria-label="`${outletName(d.outletId)}: ${becameText(d)} ${fileName(d.became.path)}`"
                  @click.stop
                  >{{ isDelivered(d) ? '✓' : '≠' }}</NuxtLink
                ></span
              >
              <span v-if="!(goingTo.get(r.id) ?? []).length" class="quiet">goes nowhere yet</span>
            </div>
            <div v-if="faults.get(r.id)" class="fault clip" :title="faults.get(r.id)!.join('\n')">
              {{ faults.get(r.id)![0]
              }}<template v-if="faults.get(r.id)!.length > 1"> · and {{ faults.get(r.id)!.length - 1 }} more</template>
            </div>
          </div>
        </template>
      </LongRows>
    </div>
  </section>
</template>

<style scoped>
.rows {
  display: flex;
  flex-direction: column;
  width: 384px;
  flex: none;
  min-width: 0;
}
.head {
  display: flex;
  align-items: center;
  justify-content: space-between;
  padding: 0 12px 0 6px;
  border-bottom: 1px solid var(--line);
  flex: none;
}
.list {
  overflow-y: auto;
  flex: 1;
  min-height: 0;
}
.content {
  left: 0;
  right: 0;
}
.empty {
  padding: 26px 18px;
  color: var(--quiet);
  line-height: 1.6;
}
.region {
  padding: 7px 12px 4px 6px;
  border-bottom: 1px solid var(--line);
  cursor: default;
  overflow: hidden;
}
.region:hover {
  background: var(--surface);
}
.region.chosen {
  background: var(--raised);
  box-shadow: inset 3px 0 0 var(--crane);
}
.top {
  gap: 7px;
}
.no {
  color: var(--quiet);
  font-size: 12px;
  width: 20px;
  text-align: right;
}
.name {
  font-weight: 600;
  font-size: 14.5px;
}
.length {
  color: var(--text);
  font-size: 12.5px;
}
.times {
  font-size: 12.5px;
  padding-left: 27px;
  gap: 6px;
  color: var(--quiet);
}
.times :deep(input) {
  color: var(--text);
}
.last {
  font-size: 11px;
}
.times :deep(select) {
  text-align-last: right;
}
.goes {
  padding-left: 27px;
  gap: 10px;
  font-size: 12.5px;
  height: 19px;
}
.dest {
  display: inline-flex;
  gap: 4px;
  align-items: center;
  white-space: nowrap;
}
.became {
  color: var(--moss);
  text-decoration: none;
  font-weight: 600;
}
.became.changed {
  color: var(--ochre);
}
.fault {
  padding-left: 27px;
  font-size: 12px;
  color: var(--ochre);
}
</style>
