<script setup lang="ts">
import type { ShownTimeline } from '../../../contract/timelines'
import { shapeOf } from '../../../core/media/aspect'
import { differenceGain } from '../../../core/picture/difference'
import { formatTimecode } from '../../../core/time/timecode'
import { frameUrl } from '../../lib/stills'
import { useLooked } from '../../lib/looked'
import { useEditor } from '../../stores/editor'
import { useMonitor, type Against } from '../../stores/monitor'
import { usePlaying } from '../../stores/playing'

/** Over the picture at the playhead: how far it is from another frame, or from the file that was delivered of it. */
const props = defineProps<{ timeline: ShownTimeline; against: Against }>()
const desk = useEditor()
const monitor = useMonitor()
const playing = usePlaying()
const other = computed(() =>
  props.against.kind === 'frame' ? `from=${props.against.frame}` : `file=${props.against.id}`,
)
const { looked, failed } = useLooked(() =>
  playing.speed ? null : `${frameUrl(props.timeline, desk.playhead, 0)}&as=difference&${other.value}`,
)
const name = computed(() => {
  const { model } = props.timeline
  return props.against.kind === 'frame' ? formatTimecode(model.start + props.against.frame, model) : props.against.name
})
const said = computed(() => {
  const f = looked.value?.figures
  if (!f) return null
  if (f.largest === 0) return f.brought ? 'the same, brought to one depth and chroma' : 'the same, sample for sample'
  const n = (v: number | boolean | undefined, digits: number) => Number(v).toFixed(digits)
  const figures = [`mean ${n(f.mean, 2)}`, `largest ${n(f.largest, 1)} of 255`, `${n(f.share, 1)} % differs`]
  return [...figures, `shown × ${differenceGain}`, ...(f.scaled ? ['other raster'] : [])].join(' · ')
})
</script>

<template>
  <div
    class="difference stage"
    :style="{ '--shape': shapeOf(timeline.info.video[0] ?? null) }"
    role="group"
    aria-label="Difference"
  >
    <img v-if="looked" :src="looked.src" :alt="`Difference to ${name}`" />
    <div class="said num">
      <p class="row spread">
        <span class="clip"
          >against <strong>{{ name }}</strong></span
        >
        <button class="plain" title="No longer compare (D)" @click="monitor.against = null">✕</button>
      </p>
      <p v-if="failed" class="red">{{ failed }}</p>
      <p v-else>{{ said ?? (playing.speed ? 'where the playhead rests' : 'comparing') }}</p>
    </div>
  </div>
</template>

<style scoped>
.difference {
  position: absolute;
  inset: 0;
}
.said {
  position: absolute;
  inset: auto 0 0;
  padding: 2px 8px 3px;
  font-size: 11px;
  color: #fff;
  background: rgb(0 0 0 / 0.65);
}
button {
  color: #fff;
}
</style>
