<script setup lang="ts">
import type { ShownTimeline } from '../../contract/timelines'
import { lastAtOrBefore } from '../../core/time/order'
import { nearestCut } from '../../core/split/edit'
import { formatTimecode, lengthText } from '../../core/time/timecode'
import { aspectValue } from '../../core/media/aspect'
import { frameUrl, still } from '../lib/stills'
import {
  bracketLanes,
  columns,
  drawStrip,
  flags,
  frameAt,
  troublesOf,
  yOf,
  type Palette,
  type StripView,
} from '../lib/strip'
import { useEditor } from '../stores/editor'

const props = defineProps<{ timeline: ShownTimeline; target: number | null }>()
const desk = useEditor()
const canvas = ref<HTMLCanvasElement>()
const size = reactive({ width: 330, height: 600 })
const hint = ref('')
const label = computed(() => {
  const { name, model } = props.timeline
  return `Strip of ${name}, playhead at ${formatTimecode(model.start + desk.playhead, model)}`
})
const cursor = ref('default')

const view = computed((): StripView => ({ ...size, top: desk.top, zoom: desk.zoom }))
const lanes = computed(() => bracketLanes(desk.regions))
const starts = computed(() => desk.shots.map((s) => s.in))
const troubles = computed(() => troublesOf(props.timeline.model, props.timeline.sources))
const aspect = computed(() => {
  const [v] = props.timeline.info.video
  return v ? (v.width * aspectValue(v.pixelAspect)) / v.height : 16 / 9
})

let palette: Palette = {}
function readPalette() {
  const style = getComputedStyle(document.documentElement)
  const v = (n: string) => style.getPropertyValue(`--${n}`).trim()
  palette = {
    ground: v('ground'),
    line: v('line'),
    text: v('text'),
    quiet: v('quiet'),
    crane: v('crane'),
    red: v('red'),
    ochre: v('ochre'),
    moss: v('moss'),
    lilac: v('lilac'),
    shotA: v('shot-a'),
    shotB: v('shot-b'),
  }
}

let asked = 0
function redraw() {
  if (!asked) asked = requestAnimationFrame(draw)
}
function draw() {
  asked = 0
  const c = canvas.value
  const g = c?.getContext('2d')
  if (!c || !g || !desk.model) return
  const ratio = window.devicePixelRatio || 1
  if (c.width !== Math.round(size.width * ratio) || c.height !== Math.round(size.height * ratio)) {
    c.width = Math.round(size.width * ratio)
    c.height = Math.round(size.height * ratio)
  }
  g.setTransform(ratio, 0, 0, ratio, 0, 0)
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
      markers: desk.split.markers,
      ribbon: props.timeline.analysis.sound?.ribbon ?? null,
      envelope: desk.alone ? (props.timeline.analysis.sound?.momentary ?? []) : null,
      facts: props.timeline.analysis.pictures,
      soundFaults: props.timeline.analysis.sound?.faults ?? null,
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
    palette,
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
    () => props.timeline,
    () => props.target,
  ],
  redraw,
)

function clampTop(top: number): number {
  return Math.max(-20 / desk.zoom, Math.min(top, desk.length - (size.height - 60) / desk.zoom))
}
/** Keeps the playhead in view when keys move it. */
watch(
  () => desk.playhead,
  (frame) => {
    const y = yOf(view.value, frame)
    if (y < 20) desk.top = clampTop(frame - size.height / desk.zoom / 4)
    else if (y > size.height - 30) desk.top = clampTop(frame - (size.height / desk.zoom) * 0.75)
    desk.keepPlace()
  },
)

function wheel(e: WheelEvent) {
  e.preventDefault()
  if (e.ctrlKey) {
    const at = frameAt(view.value, e.offsetY)
    const zoom = Math.max(
      Math.min(0.3 / desk.grain, size.height / Math.max(1, desk.length)),
      Math.min(24 / desk.grain, desk.zoom * Math.exp(-e.deltaY * 0.003)),
    )
    desk.zoom = zoom
    desk.top = clampTop(at - e.offsetY / zoom)
  } else desk.top = clampTop(desk.top + (e.deltaMode === 1 ? e.deltaY * 24 : e.deltaY) / desk.zoom)
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
  return free ? rounded : (nearestCut(desk.cuts, rounded, Math.max(1, Math.round(8 / desk.zoom))) ?? rounded)
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
function move(e: PointerEvent) {
  const frame = frameAt(view.value, e.offsetY)
  if (!drag) {
    const hit = bracketAt(e.offsetX, e.offsetY)
    cursor.value = hit?.edge ? 'ns-resize' : hit ? 'pointer' : 'default'
    const shot = desk.shots[lastAtOrBefore(starts.value, frame)]
    const under =
      e.offsetX >= columns.flags && e.offsetX < columns.brackets
        ? flags(props.timeline.analysis.pictures, props.timeline.analysis.sound?.faults ?? null).flatMap((f) =>
            f.list
              .filter((r) => frame >= r.in - 8 / desk.zoom && frame < r.out + 8 / desk.zoom)
              .map((r) => `${f.name}, ${lengthText(r.out - r.in, props.timeline.model.rate)}`),
          )
        : []
    hint.value = under.length
      ? under.join(' · ')
      : hit
        ? (desk.regions.find((r) => r.id === hit.id)?.name || 'Region without a name') +
          (hit.edge ? ': drag to trim, Alt lets go of the cuts' : '')
        : e.offsetX >= columns.pictures && e.offsetX < columns.sound && shot
          ? [shot.name || 'no name', shot.reel].filter(Boolean).join(' · ')
          : ''
    return
  }
  if (drag.kind === 'trim') {
    const at = snap(frame, e.altKey)
    desk.trim(drag.id, drag.edge, at, true)
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
  // the next drag is a step of its own
  if (drag?.kind === 'trim')
    desk.history = {
      ...desk.history,
      past: desk.history.past.map((s, i, all) =>
        i === all.length - 1 ? { ...s, label: s.label.replace('moved ', 'trimmed ') } : s,
      ),
    }
  drag = null
}

let observer: ResizeObserver | undefined
let themes: MutationObserver | undefined
onMounted(() => {
  readPalette()
  observer = new ResizeObserver(([entry]) => {
    size.width = entry!.contentRect.width
    size.height = entry!.contentRect.height
    redraw()
  })
  observer.observe(canvas.value!.parentElement!)
  themes = new MutationObserver(() => {
    readPalette()
    redraw()
  })
  themes.observe(document.documentElement, { attributeFilter: ['class'] })
  void document.fonts.ready.then(redraw)
})
onBeforeUnmount(() => {
  observer?.disconnect()
  themes?.disconnect()
  cancelAnimationFrame(asked)
})
</script>

<template>
  <div class="strip">
    <canvas
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
  position: relative;
  height: 100%;
  width: 330px;
  flex: none;
  overflow: hidden;
}
canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  touch-action: none;
  outline: none;
}
</style>
