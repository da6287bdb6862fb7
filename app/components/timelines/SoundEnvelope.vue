<script setup lang="ts">
/** How loud a timeline of sound alone is from its beginning to its end, with its chapters as ticks. */
const props = defineProps<{
  /** Momentary loudness of every tenth of a second, LUFS. */
  levels: readonly (number | null)[]
  /** Places from 0 to 1. */
  ticks: readonly number[]
}>()
const columns = 360
const bars = computed(() => {
  const n = Math.min(columns, props.levels.length)
  return Array.from({ length: n }, (_, k) => {
    const part = props.levels.slice(
      Math.floor((k * props.levels.length) / n),
      Math.max(Math.floor(((k + 1) * props.levels.length) / n), Math.floor((k * props.levels.length) / n) + 1),
    )
    const loudest = part.reduce<number>((m, v) => Math.max(m, v ?? -70), -70)
    return { x: (k * columns) / n, width: columns / n, half: Math.max(0.3, ((loudest + 70) / 70) * 30) }
  })
})
</script>

<template>
  <svg :viewBox="`0 0 ${columns} 64`" preserveAspectRatio="none" role="img" aria-label="Loudness over all">
    <rect v-for="b in bars" :key="b.x" :x="b.x" :y="32 - b.half" :width="b.width * 0.8" :height="b.half * 2" />
    <line v-for="t in ticks" :key="t" :x1="t * columns" :x2="t * columns" y1="0" y2="64" />
  </svg>
</template>

<style scoped>
svg {
  display: block;
  width: 100%;
  height: 100%;
}
rect {
  fill: var(--lilac);
}
line {
  stroke: var(--ochre);
  stroke-width: 1;
  vector-effect: non-scaling-stroke;
}
</style>
