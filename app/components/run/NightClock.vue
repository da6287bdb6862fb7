<script setup lang="ts">
import type { RunView } from '../../../contract/runs'
import { clockText, spanText } from '../../lib/text'

/**
 * The night as a clock: once round is from the start to a round time after the forecast end; a ring for each worker.
 */
const props = defineProps<{
  run: RunView
  /** Workers that may be at it: those of this machine, and of those that joined. */
  workers: number
}>()
const now = ref(Date.now())
let timer: ReturnType<typeof setInterval>
onMounted(() => (timer = setInterval(() => (now.value = Date.now()), 1000)))
onBeforeUnmount(() => clearInterval(timer))

const c = 180
const from = computed(() =>
  Math.min(
    ...props.run.items.map((i) => (i.started ? Date.parse(i.started) : Infinity)),
    Date.parse(props.run.created),
  ),
)
const ended = computed(() => props.run.state === 'done' || props.run.state === 'stopped')
const end = computed(() =>
  ended.value
    ? Math.max(...props.run.items.map((i) => (i.finished ? Date.parse(i.finished) : 0)), from.value + 1000)
    : now.value + (props.run.secondsLeft ?? 0) * 1000,
)
const spans = [1, 2, 5, 10, 15, 30, 60, 120, 180, 360, 720, 1440].map((m) => m * 60_000)
const round = computed(() => spans.find((s) => s >= (end.value - from.value) * 1.08) ?? (end.value - from.value) * 1.1)
const angle = (t: number) => ((t - from.value) / round.value) * Math.PI * 2 - Math.PI / 2
function point(a: number, r: number): [number, number] {
  return [c + Math.cos(a) * r, c + Math.sin(a) * r]
}
function arc(t0: number, t1: number, r: number): string {
  const a0 = angle(t0)
  const a1 = Math.max(a0 + 0.012, Math.min(angle(t1), a0 + Math.PI * 2 - 0.001))
  const [x0, y0] = point(a0, r)
  const [x1, y1] = point(a1, r)
  return `M${x0} ${y0}A${r} ${r} 0 ${a1 - a0 > Math.PI ? 1 : 0} 1 ${x1} ${y1}`
}
const ticks = computed(() =>
  Array.from({ length: 12 }, (_, i) => {
    const after = (round.value * i) / 12
    const t = from.value + after
    return {
      i,
      t,
      inner: point(angle(t), 162),
      outer: point(angle(t), 167),
      label: point(angle(t), 143),
      text:
        round.value < 60 * 60_000
          ? `+${Math.floor(after / 60_000)}:${String(Math.round(after / 1000) % 60).padStart(2, '0')}`
          : clockText(t),
    }
  }),
)

/** Finished deliverables laid on the rings in the order they were done, each ring one at a time. */
const rings = computed(() => {
  const n = Math.max(1, props.workers)
  const free = Array.from({ length: n }, () => 0)
  const arcs: { d: string; state: string; title: string; width: number }[] = []
  const width = Math.min(16, 58 / n)
  const radius = (lane: number) => 116 - lane * (width + 4)
  for (const i of [...props.run.items].filter((x) => x.started).sort((a, b) => a.started!.localeCompare(b.started!))) {
    const t0 = Date.parse(i.started!)
    const t1 = i.finished ? Date.parse(i.finished) : now.value
    let lane = free.findIndex((f) => f <= t0 + 400)
    if (lane < 0) lane = free.indexOf(Math.min(...free))
    const begin = Math.max(t0, free[lane]!)
    free[lane] = t1
    arcs.push({ d: arc(begin, t1, radius(lane)), state: i.state, title: `${i.title}: ${i.state}`, width })
  }
  return { arcs, tracks: free.map((_, lane) => ({ r: radius(lane), width })) }
})
const running = computed(() => props.run.state === 'running')
</script>

<template>
  <svg
    viewBox="0 0 360 360"
    class="clock"
    role="img"
    :aria-label="`Night run, ${running ? `about ${spanText(run.secondsLeft ?? 0)} left` : run.state}`"
  >
    <circle :cx="c" :cy="c" r="170" class="rim" />
    <path v-if="running && run.secondsLeft" :d="arc(now, end, 163.5)" class="ahead" />
    <g v-for="t in ticks" :key="t.i">
      <line :x1="t.inner[0]" :y1="t.inner[1]" :x2="t.outer[0]" :y2="t.outer[1]" class="tick" />
      <text v-if="t.i % 3 === 0" :x="t.label[0]" :y="t.label[1] + 3.5" class="num label">
        {{ t.i === 0 ? clockText(t.t) : t.text }}
      </text>
    </g>
    <circle v-for="t in rings.tracks" :key="t.r" :cx="c" :cy="c" :r="t.r" class="track" :stroke-width="t.width" />
    <path v-for="(a, i) in rings.arcs" :key="i" :d="a.d" :class="['arc', a.state]" :stroke-width="a.width">
      <title>{{ a.title }}</title>
    </path>
    <line
      v-if="!ended"
      :x1="point(angle(now), 62)[0]"
      :y1="point(angle(now), 62)[1]"
      :x2="point(angle(now), 170)[0]"
      :y2="point(angle(now), 170)[1]"
      class="hand"
    />
    <text :x="c" :y="c - 6" class="big num">
      {{ ended ? clockText(end) : run.secondsLeft !== null ? clockText(end) : '…' }}
    </text>
    <text :x="c" :y="c + 14" class="sub">
      {{
        run.state === 'done'
          ? 'all done'
          : run.state === 'stopped'
            ? 'stopped'
            : run.state === 'paused'
              ? 'paused'
              : 'forecast end'
      }}
    </text>
  </svg>
</template>

<style scoped>
.clock {
  width: 100%;
  display: block;
}
.rim {
  fill: var(--surface);
  stroke: var(--line);
  stroke-width: 1.5;
}
.tick {
  stroke: var(--quiet);
  stroke-width: 1.2;
}
.label {
  fill: var(--quiet);
  font-size: 10.5px;
  text-anchor: middle;
}
.track {
  fill: none;
  stroke: var(--raised);
}
.ahead {
  fill: none;
  stroke: var(--crane);
  stroke-width: 3;
  opacity: 0.45;
}
.arc {
  fill: none;
}
.arc.done {
  stroke: var(--moss);
}
.arc.running {
  stroke: var(--crane);
}
.arc.failed {
  stroke: var(--red);
}
.arc.skipped {
  stroke: var(--quiet);
}
.hand {
  stroke: var(--red);
  stroke-width: 1.8;
}
.big {
  fill: var(--text);
  font-size: 27px;
  font-weight: 600;
  text-anchor: middle;
}
.sub {
  fill: var(--quiet);
  font-size: 12px;
  text-anchor: middle;
}
</style>
