<script setup lang="ts">
import type { ShownTimeline } from '../../../contract/timelines'
import { listed } from '../../../core/text'
import { lastAtOrBefore } from '../../../core/time/order'
import { nearestCut } from '../../../core/split/edit'
import { formatTimecode, lengthText } from '../../../core/time/timecode'
import { shapeOf } from '../../../core/media/aspect'
import { flagsIn } from '../../lib/flags'
import { frameUrl, still } from '../../lib/stills'
import {
  bracketLanes,
  columnHint,
  columns,
  drawStrip,
  frameAt,
  troublesOf,
  yOf,
  type Palette,
  type StripView,
} from '../../lib/strip'
import { useDrawing } from '../../lib/drawing'
import { useDeliverables } from '../../stores/deliverables'
import { useEditor } from '../../stores/editor'
import { useSplit } from '../../stores/split'
import { useShelf } from '../../stores/shelf'
import { useSplitting } from '../../stores/splitting'
import { useView } from '../../stores/view'

const props = defineProps<{ timeline: ShownTimeline; target: number | null }>()
const desk = useEditor()
const split = useSplit()
const shown = useView()
const splitting = useSplitting()
const deliverables = useDeliverables()
const shelf = useShelf()
const canvas = ref<HTMLCanvasElement>()
const size = reactive({ width: 330, height: 600 })
const hint = ref('')
const flags = computed(() => flagsIn(props.timeline))
const label = computed(() => {
  const { name, model } = props.timeline
  return `Strip of ${name}, playhead at ${formatTimecode(model.start + desk.playhead, model)}`
})
const cursor = ref('default')

const view = computed((): StripView => ({ ...size, top: shown.top, zoom: shown.zoom }))
const lanes = computed(() => bracketLanes(desk.regions))
const starts = computed(() => desk.shots.map((s) => s.in))
const troubles = computed(() => troublesOf(props.timeline.model, props.timeline.sources))
const proposed = computed(() => (splitting.open ? [...splitting.proposals].sort((a, b) => a.in - b.in) : []))
/** The longest handles that any outlet gets of a region. */
const handles = computed(() => {
  const of = new Map(shelf.outlets.map((o) => [o.id, o.recipe.handles]))
  const out = new Map<string, number>()
  for (const d of deliverables.ofTimeline) {
    const frames = d.overrides.handles ?? of.get(d.outletId) ?? 0
    if (frames > (out.get(d.regionId) ?? 0)) out.set(d.regionId, frames)
  }
  return out
})
const aspect = computed(() => shapeOf(props.timeline.info.video[0] ?? null))

const redraw = useDrawing(canvas, () => size, draw)
function draw(g: CanvasRenderingContext2D, colours: Palette) {
  if (!desk.model) return
  drawStrip(
    g,
    view.value,
    {
      base: desk.model,
      start: desk.model.start,
      length: desk.length,
      shots: desk.shots,
      shotStarts: starts.value,
      regions: desk.regions,
      lanes: lanes.value,
      handles: handles.value,
      markers: desk.split.markers,
      proposed: proposed.value,
      ribbon: props.timeline.analysis.sound?.ribbon ?? null,
      envelope: desk.alone ? (props.timeline.analysis.sound?.momentary ?? []) : null,
      flags: flags.value,
      found: props.timeline.comparison?.extra ?? [],
      troubles: troubles.value,
      target: props.target,
      playhead: desk.playhead,
      marked: { in: desk.markIn, out: desk.markOut },
      selected: new Set(desk.selected),
      shotsSelected: new Set(desk.shotsSelected),
      aspect: aspect.value,
      image: (frame) => still(frameUrl(props.timeline, frame, 160), redraw),
    },
    colours,
  )
}

watch(
  [
    view,
    () => desk.regions,
    () => desk.playhead,
    () => desk.markIn,
    () => desk.markOut,
    () => desk.selected,
    () => desk.shotsSelected,
    () => desk.split.markers,
    proposed,
    handles,
    () => props.timeline,
    () => props.target,
  ],
  redraw,
)

/** Keeps the playhead in view when keys move it. */
watch(
  () => desk.playhead,
  (frame) => {
    shown.reveal(frame)
    desk.keepPlace()
  },
)

function wheel(e: WheelEvent) {
  e.preventDefault()
  const pixels = e.deltaMode === 1 ? e.deltaY * 24 : e.deltaY
  if (e.ctrlKey) shown.zoomAt(Math.exp(-e.deltaY * 0.003), e.offsetY)
  else shown.moveTo(shown.top + pixels / shown.zoom)
  desk.keepPlace()
}

interface Edge {
  readonly id: string
  readonly edge: 'in' | 'out'
}

/** The bracket edge under a point, or the bracket itself. */
function bracketAt(x: number, y: number): Edge | { readonly id: string; readonly edge: null } | null {
  if (x < columns.brackets) return null
  for (let i = desk.regions.length - 1; i >= 0; i--) {
    const r = desk.regions[i]!
    const bx = columns.brackets + 8 + Math.min(4, lanes.value[i]!) * 9
    const [y0, y1] = [yOf(view.value, r.in), yOf(view.value, r.out)]
    if (x < bx - 8 || x > bx + 40) continue
    if (Math.abs(y - y0) < 7) return { id: r.id, edge: 'in' }
    if (Math.abs(y - y1) < 7) return { id: r.id, edge: 'out' }
    if (y > y0 && y < y1) return { id: r.id, edge: null }
  }
  return null
}

function snap(frame: number, free: boolean): number {
  const rounded = Math.round(frame)
  return free ? rounded : (nearestCut(desk.cuts, rounded, Math.max(1, Math.round(8 / shown.zoom))) ?? rounded)
}

let drag:
  | { kind: 'mark'; from: number; moved: boolean; x: number; y: number; additive: boolean }
  | { kind: 'trim'; id: string; edge: 'in' | 'out' }
  | null = null

function down(e: PointerEvent) {
  if (e.button !== 0) return
  canvas.value!.setPointerCapture(e.pointerId)
  const hit = bracketAt(e.offsetX, e.offsetY)
  if (hit?.edge) {
    desk.select(hit.id)
    drag = { kind: 'trim', id: hit.id, edge: hit.edge }
  } else if (hit) desk.select(hit.id, e.ctrlKey || e.metaKey ? 'toggle' : e.shiftKey ? 'range' : 'only')
  else
    drag = {
      kind: 'mark',
      from: frameAt(view.value, e.offsetY),
      moved: false,
      x: e.offsetX,
      y: e.offsetY,
      additive: e.ctrlKey || e.metaKey || e.shiftKey,
    }
}
const shotAt = (e: PointerEvent) => e.offsetX >= columns.pictures && e.offsetX < columns.sound
function bracketHint(hit: ReturnType<typeof bracketAt>): string | null {
  if (!hit) return null
  const r = desk.regions.find((x) => x.id === hit.id)
  const name = r?.name || 'Region without a name'
  if (!r || !hit.edge) return name
  const at = r[hit.edge]
  const others = desk.regions.filter((x) => x !== r && (x.in === at || x.out === at))
  const together = others.length ? `, with Shift ${listed(others.map((x) => x.name || 'the other'))} as well` : ''
  return `${name}: drag to trim${together}, Alt lets go of the cuts`
}
function move(e: PointerEvent) {
  const frame = frameAt(view.value, e.offsetY)
  if (!drag) {
    const hit = bracketAt(e.offsetX, e.offsetY)
    cursor.value = hit?.edge ? 'ns-resize' : hit ? 'pointer' : 'default'
    const shot = desk.shots[lastAtOrBefore(starts.value, frame)]
    const under =
      e.offsetX >= columns.flags && e.offsetX < columns.brackets
        ? flags.value.flatMap((f) =>
            f.list
              .filter((r) => frame >= r.in - 8 / shown.zoom && frame < r.out + 8 / shown.zoom)
              .map((r) => `${f.name}, ${lengthText(r.out - r.in, props.timeline.model.rate)}`),
          )
        : []
    const of = bracketHint(hit) ?? (shotAt(e) && [shot?.name || 'no name', shot?.reel].filter(Boolean).join(' · '))
    hint.value = under.length ? under.join(' · ') : of || columnHint(e.offsetX)
    return
  }
  if (drag.kind === 'trim') {
    const at = snap(frame, e.altKey)
    desk[e.shiftKey ? 'roll' : 'trim'](drag.id, drag.edge, at, true)
    desk.go(drag.edge === 'in' ? at : at - 1)
  } else if (drag.moved || Math.abs(e.offsetY - drag.y) > 4) {
    drag.moved = true
    const [a, b] = [snap(drag.from, e.altKey), snap(frame, e.altKey)].sort((x, y) => x - y)
    desk.markIn = Math.max(0, a!)
    desk.markOut = Math.min(desk.length, Math.max(b!, a! + 1))
  }
}
function up() {
  if (drag?.kind === 'mark' && !drag.moved) {
    const i = lastAtOrBefore(starts.value, drag.from)
    if (drag.additive && drag.x >= columns.pictures && drag.x < columns.sound && i >= 0)
      desk.shotsSelected = desk.shotsSelected.includes(i)
        ? desk.shotsSelected.filter((s) => s !== i)
        : [...desk.shotsSelected, i].sort((a, b) => a - b)
    else {
      desk.shotsSelected = []
      desk.go(Math.floor(drag.from))
    }
  }
  split.drop()
  drag = null
}

let observer: ResizeObserver | undefined
onMounted(() => {
  observer = new ResizeObserver(([entry]) => {
    size.width = entry!.contentRect.width
    size.height = entry!.contentRect.height
    shown.resize(size.height)
    redraw()
  })
  observer.observe(canvas.value!)
  void document.fonts.ready.then(redraw)
})
onBeforeUnmount(() => {
  split.drop()
  observer?.disconnect()
})
</script>

<template>
  <div class="strip">
    <WholeColumn :timeline="timeline" />
    <canvas
      id="strip"
      ref="canvas"
      tabindex="-1"
      :style="{ cursor }"
      :title="hint"
      role="img"
      :aria-label="label"
      @wheel="wheel"
      @pointerdown="down"
      @pointermove="move"
      @pointerup="up"
      @pointercancel="up"
    />
  </div>
</template>

<style scoped>
.strip {
  display: flex;
  height: 100%;
  flex: none;
  overflow: hidden;
}
#strip {
  width: 330px;
  height: 100%;
  touch-action: none;
  outline: none;
}
</style>
