<script setup lang="ts">
import type { ShownTimeline } from '../../../contract/timelines'
import { shapeOf } from '../../../core/media/aspect'
import { sourceChannels } from '../../../core/sound/layout'
import { hearable } from '../../lib/hearing'
import { useEditor } from '../../stores/editor'
import { useMonitor } from '../../stores/monitor'

/** The picture at the playhead with what is laid over it, the levels of its sound, and its waveform on wish. */
const props = defineProps<{ timeline: ShownTimeline }>()
const desk = useEditor()
const monitor = useMonitor()
const can = computed(() => hearable(props.timeline))
onMounted(() => monitor.load())
watch(
  () => props.timeline.id,
  () => (monitor.against = null),
)
/** The picture's shape, as high as 1000. */
const width = computed(() => Math.round(1000 * shapeOf(props.timeline.info.video[0] ?? null)))
/** EBU R 95: what has to be seen lies within 3.5 % of each edge, what has to be read within 5 %. */
const areas = [
  { name: 'action', off: 0.035 },
  { name: 'graphics', off: 0.05 },
]
const looks = computed(() => [
  {
    ...{ key: 'G', name: 'safe areas', title: 'Action and graphics safe areas, EBU R 95', on: monitor.safe },
    act: () => monitor.toggle('safe'),
  },
  {
    ...{ key: 'W', name: 'waveform', title: 'Luma with the limits of EBU R 103', on: monitor.waveform },
    act: () => monitor.toggle('waveform'),
  },
  {
    ...{ key: 'D', name: 'difference', on: monitor.against !== null },
    title: monitor.against ? 'No longer compares' : 'Holds the picture against this frame from now on',
    act: () => monitor.compare(desk.playhead),
  },
])
</script>

<template>
  <div class="monitor">
    <div class="both">
      <PlayheadView :timeline="timeline">
        <DifferenceView v-if="monitor.against" :timeline="timeline" :against="monitor.against" />
        <svg v-if="monitor.safe" :viewBox="`0 0 ${width} 1000`" role="img" aria-label="Safe areas (EBU R 95)">
          <rect
            v-for="a in areas"
            :key="a.name"
            :x="a.off * width"
            :y="a.off * 1000"
            :width="(1 - 2 * a.off) * width"
            :height="(1 - 2 * a.off) * 1000"
          />
          <path :d="`M ${width / 2 - 30} 500 h 60 M ${width / 2} 470 v 60`" />
        </svg>
      </PlayheadView>
      <LevelMeters v-if="sourceChannels(timeline.info)" :timeline="timeline" />
    </div>
    <div v-if="!desk.alone" class="row looks small" @mousedown.prevent>
      <button
        v-for="l in looks"
        :key="l.key"
        class="plain quiet"
        :aria-pressed="l.on"
        :title="`${l.title} (${l.key})`"
        @click="l.act()"
      >
        {{ l.name }} <kbd>{{ l.key }}</kbd>
      </button>
      <button
        v-if="can.open.length > 2"
        class="plain quiet hear"
        title="Hears the next two channels; a mix in surround as a whole before them (H)"
        @click="monitor.hearNext(can)"
      >
        next channels <kbd>H</kbd>
      </button>
    </div>
    <WaveformScope v-if="monitor.waveform && !desk.alone" :timeline="timeline" />
  </div>
</template>

<style scoped>
.monitor {
  display: flex;
  flex-direction: column;
  gap: 6px;
}
.both {
  display: flex;
  gap: 8px;
  min-width: 0;
}
.both > :first-child {
  flex: 1;
  min-width: 0;
}
.looks {
  gap: 14px;
}
.looks [aria-pressed='true'] {
  color: var(--crane);
}
.hear {
  margin-left: auto;
}
svg {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
rect,
path {
  fill: none;
  stroke: #fff;
  stroke-width: 1;
  vector-effect: non-scaling-stroke;
  filter: drop-shadow(0 0 1px #000);
}
rect:first-of-type {
  stroke-dasharray: 6 4;
}
</style>
