<script setup lang="ts">
import { useResizeObserver } from '@vueuse/core'
import type { ShownTimeline } from '../../../contract/timelines'
import { sourceChannels } from '../../../core/sound/layout'
import { askedOf } from '../../lib/asked'
import { useDrawing } from '../../lib/drawing'
import { channelText, hearable, unheard } from '../../lib/hearing'
import { decibels, levelsAt } from '../../lib/levels'
import type { Palette } from '../../lib/strip'
import { useEditor } from '../../stores/editor'
import { useMonitor } from '../../stores/monitor'

/**
 * True peak of every channel at the playhead, with the highest of the last two seconds; which of them are heard is said
 * below.
 */
const props = defineProps<{ timeline: ShownTimeline }>()
const desk = useEditor()
const monitor = useMonitor()
const canvas = ref<HTMLCanvasElement>()
const box = ref<HTMLElement>()
const height = ref(200)
const channels = computed(() => sourceChannels(props.timeline.info))
const closed = computed(() => unheard(props.timeline))
const can = computed(() => hearable(props.timeline))
const heard = computed(() => monitor.heardOf(can.value))
const each = computed(() => (channels.value > 8 ? 9 : channels.value > 4 ? 13 : 19))
const scale = 22
const size = computed(() => ({ width: scale + channels.value * each.value, height: height.value }))
/** The most that the outlet takes, dBTP. */
const limit = computed(() => {
  const e = askedOf('true-peak')
  return e && 'max' in e && e.max !== undefined ? e.max : null
})
const [top, bottom] = [3, -57]
const marks = [0, -9, -18, -30, -45]
const y = (db: number) => 6 + Math.max(0, Math.min(1, (top - db) / (top - bottom))) * (height.value - 12)

const redraw = useDrawing(canvas, () => size.value, draw)
function draw(g: CanvasRenderingContext2D, p: Palette) {
  g.clearRect(0, 0, size.value.width, height.value)
  g.font = '9.5px "Red Hat Mono Variable"'
  g.textBaseline = 'middle'
  g.textAlign = 'right'
  for (const db of marks) {
    g.fillStyle = p.quiet!
    g.fillText(db === 0 ? '0' : `−${-db}`, scale - 5, y(db))
    g.globalAlpha = 0.3
    g.fillRect(scale, Math.round(y(db)), size.value.width - scale, 1)
    g.globalAlpha = 1
  }
  const levels = levelsAt(props.timeline, desk.playhead, redraw)
  for (let c = 0; c < channels.value; c++) {
    const x = scale + c * each.value + 1
    const width = each.value - 3
    g.fillStyle = p.line!
    g.fillRect(x, y(top), width, y(bottom) - y(top))
    if (closed.value.has(c)) {
      shade(g, p, x, width)
      continue
    }
    if (!levels) continue
    const [now, held] = [decibels(levels.now[c] ?? 0), decibels(levels.held[c] ?? 0)]
    const over = limit.value !== null && held > limit.value
    g.globalAlpha = heard.value.includes(c) ? 1 : 0.45
    g.fillStyle = limit.value !== null && now > limit.value ? p.red! : p.crane!
    g.fillRect(x, y(now), width, y(bottom) - y(now))
    g.fillStyle = over ? p.red! : p.text!
    if (held > bottom) g.fillRect(x, Math.round(y(held)) - 1, width, 2)
    g.globalAlpha = 1
  }
  if (limit.value !== null) {
    g.fillStyle = p.ochre!
    g.fillRect(scale, Math.round(y(limit.value)), size.value.width - scale, 1)
  }
}
watch([() => desk.playhead, () => props.timeline, size, limit, heard], redraw)
useResizeObserver(box, ([x]) => (height.value = Math.max(60, x!.contentRect.height - 18)))
/** A channel that cannot be heard: no level, which is not silence. */
function shade(g: CanvasRenderingContext2D, p: Palette, x: number, width: number) {
  g.fillStyle = p.ground!
  for (let at = y(top) + 2; at < y(bottom); at += 4) g.fillRect(x, Math.round(at), width, 2)
}
/** What is told of a channel, and what a click does. */
function titleOf(c: number): string {
  const why = closed.value.get(c)
  return why
    ? `${channelText(props.timeline, c)} cannot be heard. ${why.message}`
    : `${channelText(props.timeline, c)}: ${heldText(c)}. Click: hear it alone; Ctrl+click: with the others`
}
/** The highest of a channel's last two seconds, in words. */
function heldText(c: number): string {
  const held = levelsAt(props.timeline, desk.playhead, redraw)?.held[c]
  if (held === undefined) return 'not measured yet'
  const db = decibels(held)
  return Number.isFinite(db) ? `${db.toFixed(1).replace('-', '−')} dBTP in the last two seconds` : 'silent'
}
</script>

<template>
  <div ref="box" class="meters" role="group" aria-label="Levels">
    <canvas ref="canvas" :style="{ width: `${size.width}px`, height: `${size.height}px` }" />
    <div class="row heard" :style="{ paddingLeft: `${scale}px` }">
      <button
        v-for="c in channels"
        :key="c"
        class="num"
        :style="{ width: `${each}px` }"
        :aria-pressed="heard.includes(c - 1)"
        :disabled="closed.has(c - 1)"
        :aria-label="`Hear channel ${c}`"
        :title="titleOf(c - 1)"
        @mousedown.prevent
        @click="monitor.hear(c - 1, $event.ctrlKey || $event.metaKey, can)"
      >
        {{ each > 9 || c % 2 ? c : '' }}
      </button>
    </div>
  </div>
</template>

<style scoped>
.meters {
  flex: none;
  min-height: 0;
}
canvas {
  display: block;
}
.heard {
  gap: 0;
}
.heard button {
  background: none;
  border: 0;
  padding: 0;
  font-size: 10.5px;
  color: var(--quiet);
  cursor: pointer;
  text-align: center;
}
.heard button:disabled {
  cursor: default;
  text-decoration: line-through;
}
.heard button[aria-pressed='true'] {
  color: var(--crane);
  box-shadow: inset 0 2px 0 var(--crane);
}
</style>
