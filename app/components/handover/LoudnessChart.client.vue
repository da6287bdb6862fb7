<script setup lang="ts">
import VueApexCharts from 'vue3-apexcharts'

/** Short-term loudness over the file, with the target it was asked to meet. */
const props = defineProps<{ ribbon: readonly (number | null)[]; target: number | null }>()
const colour = (n: string) => getComputedStyle(document.documentElement).getPropertyValue(`--${n}`).trim()
const series = computed(() => {
  const step = Math.max(1, Math.ceil(props.ribbon.length / 600))
  return [
    {
      name: 'Short-term loudness',
      data: props.ribbon.flatMap((v, i) =>
        i % step === 0 ? [{ x: i / 10, y: v === null ? null : Math.max(-60, v) }] : [],
      ),
    },
  ]
})
const options = computed(() => ({
  chart: {
    type: 'line' as const,
    animations: { enabled: false },
    toolbar: { show: false },
    zoom: { enabled: false },
    background: 'transparent',
    fontFamily: 'Red Hat Mono Variable, monospace',
    foreColor: colour('quiet'),
  },
  stroke: { width: 1.6, curve: 'straight' as const },
  colors: [colour('crane')],
  dataLabels: { enabled: false },
  grid: { borderColor: colour('line'), strokeDashArray: 2, padding: { left: 4, right: 8, top: -14, bottom: -6 } },
  xaxis: {
    type: 'numeric' as const,
    tickAmount: 6,
    labels: {
      formatter: (v: string) => `${props.ribbon.length < 600 ? Number(v).toFixed(1) : Math.round(Number(v))} s`,
    },
    axisTicks: { show: false },
    axisBorder: { show: false },
    tooltip: { enabled: false },
  },
  yaxis: {
    min: -50,
    max: 0,
    tickAmount: 5,
    labels: { formatter: (v: number) => String(Math.round(v)).replace('-', '−') },
  },
  annotations:
    props.target === null
      ? {}
      : {
          yaxis: [
            {
              y: props.target,
              borderColor: colour('moss'),
              strokeDashArray: 0,
              label: {
                text: `target ${String(props.target).replace('-', '−')}`,
                position: 'left',
                textAnchor: 'start',
                style: { background: 'transparent', color: colour('moss') },
                borderWidth: 0,
              },
            },
          ],
        },
  tooltip: {
    theme: 'dark',
    x: { formatter: (v: number) => `${v.toFixed(1)} s` },
    y: { formatter: (v: number | null) => (v === null ? 'silence' : `${v.toFixed(1).replace('-', '−')} LUFS`) },
  },
}))
</script>

<template>
  <VueApexCharts type="line" height="150" :options="options" :series="series" />
</template>
