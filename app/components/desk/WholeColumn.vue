<script setup lang="ts">
import type { ShownTimeline } from '../../../contract/timelines'
import { grouped } from '../../../core/group'
import { formatTimecode } from '../../../core/time/timecode'
import { useDrawing } from '../../lib/drawing'
import { flagsIn } from '../../lib/flags'
import { troublesOf } from '../../lib/strip'
import { drawWhole, takenLines, wholeFrame, wholeWidth } from '../../lib/whole'
import { useEditor } from '../../stores/editor'
import { useView } from '../../stores/view'

/** The whole timeline, always: a click or a drag goes there. */
const props = defineProps<{ timeline: ShownTimeline }>()
const desk = useEditor()
const view = useView()
const canvas = ref<HTMLCanvasElement>()
const hint = ref('')

const marks = computed(() => {
  const { model, sources } = props.timeline
  return [
    ...flagsIn(props.timeline).flatMap((f) => f.list.map((r) => ({ ...r, name: f.name, colour: f.colour }))),
    ...troublesOf(model, sources).map((t) => ({ ...t, name: t.word, colour: t.grave ? 'red' : 'ochre' })),
  ]
})
/** Told apart from what scrolls and plays, so that it is worked out when regions change alone. */
const taken = computed(() => takenLines(desk.regions, desk.length, view.height))
const markedLines = computed(() =>
  [...grouped(marks.value, (m) => m.colour)].flatMap(([colour, list]) => {
    const inOrder = [...list].sort((a, b) => a.in - b.in)
    return takenLines(inOrder, desk.length, view.height).map((lines) => ({ ...lines, colour }))
  }),
)
const selected = computed(() => {
  const ids = new Set(desk.selected)
  return desk.regions.filter((r) => ids.has(r.id))
})
const content = computed(() => ({
  length: desk.length,
  regions: taken.value,
  selected: selected.value,
  loudness: props.timeline.analysis.sound?.ribbon ?? null,
  marks: markedLines.value,
  playhead: desk.playhead,
  window: view.window,
}))

const size = () => ({ width: wholeWidth, height: view.height })
const redraw = useDrawing(canvas, size, (g, colours) => drawWhole(g, view.height, content.value, colours))
watch([content, () => view.height], redraw)

function goTo(e: PointerEvent) {
  view.centre(wholeFrame(e.offsetY, desk.length, view.height))
  desk.keepPlace()
}
function down(e: PointerEvent) {
  if (e.button !== 0) return
  canvas.value!.setPointerCapture(e.pointerId)
  goTo(e)
}
function move(e: PointerEvent) {
  if (canvas.value!.hasPointerCapture(e.pointerId)) return goTo(e)
  const frame = wholeFrame(e.offsetY, desk.length, view.height)
  const near = (3 * desk.length) / Math.max(1, view.height)
  const under = marks.value.filter((m) => frame >= m.in - near && frame < m.out + near).map((m) => m.name)
  const region = desk.regions.find((r) => frame >= r.in && frame < r.out)
  const { model } = props.timeline
  hint.value = [formatTimecode(model.start + frame, model), region?.name, ...new Set(under)].filter(Boolean).join(' · ')
}
</script>

<template>
  <canvas
    ref="canvas"
    class="whole"
    role="scrollbar"
    aria-orientation="vertical"
    aria-label="The whole timeline"
    aria-controls="strip"
    :aria-valuemin="0"
    :aria-valuemax="desk.length"
    :aria-valuenow="Math.round(view.window.in)"
    :title="hint"
    :style="{ width: `${wholeWidth}px` }"
    @pointerdown="down"
    @pointermove="move"
  />
</template>

<style scoped>
.whole {
  flex: none;
  height: 100%;
  background: var(--surface);
  border-right: 1px solid var(--line);
  touch-action: none;
  cursor: pointer;
}
</style>
