<script setup lang="ts">
import type { ShownTimeline } from '../../../contract/timelines'
import { soundRate } from '../../../core/sound/tracks'
import { extremes, piecesOf, wavePiece } from '../../lib/wave'
import { frameAtSample, sampleAtFrame } from '../../../core/time/samples'
import { useEditor } from '../../stores/editor'

/**
 * The wave of sound alone around a frame, or a sample where these are counted, drawn to the sample where it is near
 * enough; the wheel brings it nearer.
 */
const props = defineProps<{
  timeline: ShownTimeline
  /** The frame whose beginning is in the middle. */
  at: number
  /** Seconds from edge to edge at first. */
  span: number
  /** Shades what a region leaves out. */
  region?: { readonly in: number; readonly out: number } | null
  /** Whether the wheel changes the span. */
  zooms?: boolean
}>()
const desk = useEditor()
const pieces = computed(() => piecesOf(props.timeline))
const sampleRate = computed(() => soundRate(props.timeline.info.audio))
const sampleOf = (frame: number) => sampleAtFrame(frame, props.timeline.model.rate, sampleRate.value)
const middle = computed(() => sampleOf(props.at))
const canvas = ref<HTMLCanvasElement>()
/** Samples from edge to edge. */
const span = ref(props.span * sampleRate.value)
let asked = 0

function redraw() {
  if (!asked) asked = requestAnimationFrame(draw)
}
function draw() {
  asked = 0
  const c = canvas.value
  const g = c?.getContext('2d')
  if (!c || !g) return
  const ratio = window.devicePixelRatio || 1
  const { clientWidth: width, clientHeight: height } = c
  c.width = Math.round(width * ratio)
  c.height = Math.round(height * ratio)
  g.setTransform(ratio, 0, 0, ratio, 0, 0)
  const style = getComputedStyle(c)
  const colour = (name: string) => style.getPropertyValue(`--${name}`).trim()
  const from = middle.value - span.value / 2
  const perPixel = span.value / width
  const x = (sample: number) => (sample - from) / perPixel
  g.fillStyle = colour('ground')
  g.fillRect(0, 0, width, height)
  const channels = Math.min(
    2,
    props.timeline.info.audio.reduce((n, a) => n + a.channels, 0),
  )
  const piece = (n: number) => wavePiece(props.timeline, n, redraw)
  // the pieces in view are asked for, also where nothing is drawn yet
  const { at, begin } = pieces.value
  for (let n = at(Math.max(0, Math.floor(from))); begin(n) < from + span.value; n++) piece(n)
  const lane = height / channels
  // quiet sound is drawn larger: its loudest sample nearly fills the lane
  const loudest = Math.max(...(props.timeline.analysis.sound?.facts.peaks ?? [0]).map((p) => p ?? -60))
  const scale = Math.min(16, 10 ** (-loudest / 20))
  for (let ch = 0; ch < channels; ch++) {
    const centre = lane * (ch + 0.5)
    g.fillStyle = colour('line')
    g.fillRect(0, Math.round(centre), width, 1)
    g.fillStyle = colour('lilac')
    let before: number | null = null
    for (let px = 0; px < width; px++) {
      const first = Math.floor(from + px * perPixel)
      const found = extremes(
        pieces.value,
        piece,
        ch,
        first,
        Math.max(first + 1, Math.floor(from + (px + 1) * perPixel)),
      )
      if (!found) {
        before = null
        continue
      }
      const [top, bottom] = [found.high, found.low].map((v) => centre - (v / 32768) * scale * lane * 0.47) as [
        number,
        number,
      ]
      // pixels of one wave hang together
      const upper = Math.min(top, before ?? top)
      const lower = Math.max(bottom, before ?? bottom)
      g.fillRect(px, upper, 1, Math.max(1, lower - upper))
      before = (top + bottom) / 2
    }
  }
  if (props.region) {
    g.fillStyle = colour('ground')
    g.globalAlpha = 0.72
    g.fillRect(0, 0, Math.max(0, x(sampleOf(props.region.in))), height)
    g.fillRect(x(sampleOf(props.region.out)), 0, width, height)
    g.globalAlpha = 1
    g.fillStyle = colour('crane')
    for (const edge of [props.region.in, props.region.out]) g.fillRect(Math.round(x(sampleOf(edge))) - 1, 0, 2, height)
  }
  if (props.zooms) {
    g.fillStyle = colour('red')
    g.fillRect(Math.round(x(middle.value)), 0, 1.5, height)
  }
}
function wheel(e: WheelEvent) {
  if (!props.zooms) return
  e.preventDefault()
  span.value = Math.max(200, Math.min(sampleRate.value * 20, span.value * Math.exp(e.deltaY * 0.002)))
}
/** A click goes to what is under it: a frame, or a sample where these are counted. */
function click(e: MouseEvent) {
  if (!props.zooms) return
  const sample = Math.round(middle.value + (e.offsetX / canvas.value!.clientWidth - 0.5) * span.value)
  desk.go(frameAtSample(Math.max(0, sample), props.timeline.model.rate, sampleRate.value))
}
watch([() => props.at, () => props.region, () => props.timeline, span], redraw)
let observer: ResizeObserver | undefined
onMounted(() => {
  observer = new ResizeObserver(redraw)
  observer.observe(canvas.value!)
})
onBeforeUnmount(() => {
  observer?.disconnect()
  cancelAnimationFrame(asked)
})
</script>

<template>
  <canvas
    ref="canvas"
    role="img"
    :aria-label="`Wave around ${desk.sampled ? 'sample' : 'frame'} ${at}`"
    :title="zooms ? 'Wheel: nearer or farther; click: go there' : undefined"
    @wheel="wheel"
    @click="click"
  />
</template>

<style scoped>
canvas {
  display: block;
  width: 100%;
  height: 100%;
}
</style>
