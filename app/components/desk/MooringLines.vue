<script setup lang="ts">
import { bracketLanes, columns } from '../../lib/strip'
import { useEditor } from '../../stores/editor'
import { useView } from '../../stores/view'

/** Lines that tie each bracket on the strip to its row, also when the two have scrolled apart. */
const props = defineProps<{ height: number; rowHeight: number; scroll: number; head: number }>()
const desk = useEditor()
const shown = useView()
const width = 26

const lanes = computed(() => bracketLanes(desk.regions))
const lines = computed(() => {
  // read once: this runs over all regions with every step of scrolling
  const { regions } = desk
  const { top: from, zoom } = shown
  const { height, rowHeight, scroll, head } = props
  const lane = lanes.value
  const selected = new Set(desk.selected)
  const clamp = (y: number) => Math.max(2, Math.min(height - 2, y))
  return regions.flatMap((r, i) => {
    const top = (r.in - from) * zoom
    const bottom = (r.out - from) * zoom
    const row = head + i * rowHeight + 22 - scroll
    const seen = bottom > 0 && top < height
    const rowSeen = row > head - 10 && row < height
    const chosen = selected.has(r.id)
    if (!chosen && !(seen && rowSeen)) return []
    const y0 = clamp((Math.max(top, 0) + Math.min(bottom, height)) / 2)
    const y1 = Math.max(head, Math.min(height - 2, row))
    const x0 = columns.brackets + 8 + Math.min(4, lane[i]!) * 9 + 32 - columns.end
    return [{ id: r.id, chosen, d: `M${x0} ${y0}C${width * 0.7} ${y0} ${width * 0.3} ${y1} ${width} ${y1}` }]
  })
})
</script>

<template>
  <svg class="moorings" :width="width" :height="height" aria-hidden="true">
    <path v-for="l in lines" :key="l.id" :d="l.d" :class="{ chosen: l.chosen }" />
  </svg>
</template>

<style scoped>
.moorings {
  flex: none;
  overflow: visible;
  pointer-events: none;
  display: block;
  position: relative;
  z-index: 2;
}
path {
  fill: none;
  stroke: var(--line);
  stroke-width: 1.2;
}
path.chosen {
  stroke: var(--crane);
  stroke-width: 2;
}
</style>
