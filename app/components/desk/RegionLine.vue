<script setup lang="ts">
import type { ShownTimeline } from '../../../contract/timelines'
import type { FrameRange } from '../../../core/time/range'
import { formatLength, formatTimecode } from '../../../core/time/timecode'
import { useEditor } from '../../stores/editor'
import { useRows, type Row } from '../../stores/rows'
import { useShelf } from '../../stores/shelf'

/** A region as a line of the table: what can be typed over, and what a change of several would make of it. */
const props = defineProps<{ row: Row; timeline: ShownTimeline }>()
const emit = defineEmits<{ next: [to: { by: 1 | -1; column: string }] }>()
const desk = useEditor()
const rows = useRows()
const shelf = useShelf()
const base = computed(() => props.timeline.model)
const region = computed(() => props.row.region)
/** What it would be. */
const to = computed(() => rows.changed.get(region.value.id))
const label = (n: number) => formatTimecode(base.value.start + n, base.value)
const lengthOf = (r: FrameRange) => formatLength(r.out - r.in, base.value)
const outletName = (id: string) => shelf.outlets.find((o) => o.id === id)?.name ?? id
/** Enter in a field goes to the same field of the next row, Shift+Enter to that before. */
const down = (e: KeyboardEvent, column: string) => emit('next', { by: e.shiftKey ? -1 : 1, column })
</script>

<template>
  <div class="line" :class="{ chosen: desk.selected.includes(region.id) }">
    <span class="num quiet no">{{ String(row.no).padStart(2, '0') }}</span>
    <span v-if="to" class="clip" :title="`now ${region.name}`"
      ><span class="new">{{ to.name || 'without a name' }}</span
      ><span v-if="to.name !== region.name" class="quiet small"> was {{ region.name || 'without a name' }}</span></span
    >
    <DraftInput
      v-else
      class="bare name"
      data-column="name"
      :value="region.name"
      placeholder="name this region"
      aria-label="Name"
      spellcheck="false"
      :refuse="(name) => desk.refused(region.id, name)"
      @change="desk.rename(region.id, $event.trim())"
      @keydown.enter="down($event, 'name')"
    />
    <template v-if="to">
      <span class="num" :class="{ new: to.in !== region.in }">{{ label(to.in) }}</span>
      <span class="num" :class="{ new: to.out !== region.out }">{{ label(to.out - 1) }}</span>
    </template>
    <template v-else>
      <TimecodeField
        :frame="region.in"
        :base="base"
        :start="base.start"
        label="First frame"
        @change="desk.trim(region.id, 'in', $event)"
      />
      <TimecodeField
        :frame="region.out - 1"
        :base="base"
        :start="base.start"
        label="Last frame"
        @change="desk.trim(region.id, 'out', $event + 1)"
      />
    </template>
    <span class="num">{{ lengthOf(to ?? region) }}</span>
    <span v-if="(to ?? region).kind !== region.kind" class="new">{{ to?.kind ?? 'none' }}</span>
    <KindSelect v-else :region="region" />
    <template v-for="p in rows.papers" :key="p">
      <span v-if="to && to.metadata[p] !== region.metadata[p]" class="new clip">{{ to.metadata[p] ?? 'none' }}</span>
      <DraftInput
        v-else
        class="bare num"
        :data-column="p"
        :value="region.metadata[p] ?? ''"
        :aria-label="p"
        placeholder="–"
        spellcheck="false"
        @change="desk.setMetadata(region.id, p, $event.trim())"
        @keydown.enter="down($event, p)"
      />
    </template>
    <span class="num ochre" :title="row.faults.map((f) => f.text).join('\n')">{{ row.faults.length || '' }}</span>
    <span class="goes small clip">
      <span v-for="d in row.goes" :key="d.outletId" class="dest"
        ><VerdictMark :verdict="d.verdict" :size="9" />{{ outletName(d.outletId) }}</span
      >
      <span v-if="!row.goes.length" class="quiet">goes nowhere yet</span>
    </span>
  </div>
</template>

<style scoped>
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
</style>
