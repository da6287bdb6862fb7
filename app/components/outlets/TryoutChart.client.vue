<script setup lang="ts">
import VueApexCharts from 'vue3-apexcharts'
import type { TriedPictures } from '../../../core/deliverable/tryout'
import { framesToSeconds, type Rate } from '../../../core/time/rate'
import { tryColours, tryNames, useTryouts } from '../../stores/tryouts'

/** One figure of every picture of the stretch, try by try; a click goes to the picture. */
const props = defineProps<{
  what: string
  of: (pictures: TriedPictures) => readonly (number | null)[]
  rate: Rate
  digits: number
}>()
const tryouts = useTryouts()
const colour = (n: string) => getComputedStyle(document.documentElement).getPropertyValue(`--${n}`).trim()
const series = computed(() =>
  tryouts.tries.flatMap((t, i) => {
    const pictures = t.state?.made?.pictures
    const values = pictures ? props.of(pictures) : []
    // where every picture is the same there is nothing to draw
    if (values.every((y) => y === null)) return []
    const data = values.map((y, n) => ({ x: framesToSeconds(n, props.rate), y }))
    return [{ name: tryNames[i]!, data, color: colour(tryColours[i]!) }]
  }),
)
const options = computed(() => ({
  chart: {
    type: 'line' as const,
    animations: { enabled: false },
    toolbar: { show: false },
    zoom: { enabled: false },
    background: 'transparent',
    fontFamily: 'Red Hat Mono Variable, monospace',
    foreColor: colour('quiet'),
    events: {
      click: (_e: unknown, _c: unknown, { dataPointIndex: n }: { dataPointIndex: number }) => {
        if (n >= 0) tryouts.frame = n
      },
    },
  },
  stroke: { width: 1.6, curve: 'straight' as const },
  dataLabels: { enabled: false },
  legend: { show: false },
  grid: { borderColor: colour('line'), strokeDashArray: 2, padding: { left: 4, right: 8, top: -18, bottom: -6 } },
  xaxis: {
    type: 'numeric' as const,
    tickAmount: 8,
    labels: { formatter: (v: string) => `${Number(v).toFixed(1)} s` },
    axisTicks: { show: false },
    axisBorder: { show: false },
    tooltip: { enabled: false },
  },
  yaxis: { tickAmount: 3, labels: { minWidth: 44, formatter: (v: number | null) => v?.toFixed(props.digits) ?? '' } },
  annotations: {
    xaxis: [{ x: framesToSeconds(tryouts.frame, props.rate), borderColor: colour('red'), strokeDashArray: 0 }],
  },
  tooltip: {
    theme: 'dark',
    x: { formatter: (v: number) => `${v.toFixed(2)} s` },
    y: { formatter: (v: number | null) => (v === null ? 'the same' : v.toFixed(props.digits)) },
  },
}))
</script>

<template>
  <div v-if="tryouts.tries.some((t) => t.state?.made)" class="chart">
    <p class="small quiet">{{ what }}{{ series.length ? '' : ': every picture is the same' }}</p>
    <VueApexCharts v-if="series.length" type="line" height="104" :options="options" :series="series" />
  </div>
</template>

<style scoped>
.chart {
  flex: none;
  margin-top: 4px;
}
</style>
