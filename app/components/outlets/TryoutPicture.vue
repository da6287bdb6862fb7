<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import type { ShownTimeline } from '../../../contract/timelines'
import { peakSignalToNoise } from '../../../core/picture/likeness'
import { differenceGain } from '../../../core/picture/difference'
import { formatTimecode } from '../../../core/time/timecode'
import { shapeOf } from '../../../core/media/aspect'
import { frameUrl } from '../../lib/stills'
import { useLooked } from '../../lib/looked'
import { tryNames, useTryouts } from '../../stores/tryouts'

/** One picture of the stretch, as the timeline has it or as a try gives it, in one place to be flipped between. */
const props = defineProps<{ timeline: ShownTimeline }>()
const tryouts = useTryouts()
const whole = ref(true)
const names = computed(() => ['Timeline', ...tryouts.tries.map((_, i) => tryNames[i]!)])
const frame = computed(() => tryouts.in + tryouts.frame)
const made = computed(() => (tryouts.shown ? (tryouts.tries[tryouts.shown - 1] ?? null) : null))
const shape = computed(() => shapeOf(made.value?.asked?.output.video ?? props.timeline.info.video[0] ?? null))
const id = computed(() => made.value?.asked?.id ?? null)
const timelineUrl = computed(() => `${frameUrl(props.timeline, frame.value, 0)}&as=exact`)
/** The picture of each, so that a flip is at once. */
const urls = computed(() => [
  timelineUrl.value,
  ...tryouts.tries.map(({ asked, state }) =>
    asked?.id && state?.state === 'made' ? `/api/tryouts/${asked.id}/frames/${tryouts.frame}.png` : null,
  ),
])
/** Those that are not shown are fetched once a picture is rested on. */
const rested = refDebounced(urls, 150)
const against = computed(() => tryouts.difference && id.value !== null)
const { looked, failed } = useLooked(() =>
  against.value
    ? `${frameUrl(props.timeline, frame.value, 0)}&as=difference&tryout=${id.value}&from=${tryouts.frame}`
    : null,
)
const label = computed(() => formatTimecode(props.timeline.model.start + frame.value, props.timeline.model))
const said = computed(() => {
  const pictures = made.value?.state?.made?.pictures
  const errors = pictures?.errors[tryouts.frame]
  if (!pictures || !errors) return ''
  const luma = peakSignalToNoise(errors[0])
  const kbit = `${Math.round((pictures.bytes[tryouts.frame]! * 8) / 1000)} kbit`
  return `${kbit} · luma ${luma === null ? 'the same' : `${luma.toFixed(1)} dB`}`
})
</script>

<template>
  <div class="flip">
    <div class="row bar" role="radiogroup" aria-label="What is looked at">
      <button
        v-for="(name, n) in names"
        :key="name"
        class="plain pick"
        role="radio"
        :aria-checked="tryouts.shown === n"
        :disabled="!urls[n]"
        @click="tryouts.show(n)"
      >
        {{ name }} <kbd>{{ n }}</kbd>
      </button>
      <span class="small quiet"><kbd>Space</kbd> back and forth</span>
      <span class="grow" />
      <label class="row small"
        ><input v-model="tryouts.difference" type="checkbox" :disabled="!id" /> difference <kbd>D</kbd></label
      >
      <label class="row small"><input v-model="whole" type="checkbox" /> whole picture</label>
    </div>
    <div class="frame" :class="{ stage: whole }" :style="{ '--shape': shape }">
      <template v-for="(url, n) in urls" :key="n">
        <img
          v-if="url"
          v-show="tryouts.shown === n && !(against && looked)"
          :src="tryouts.shown === n ? url : (rested[n] ?? undefined)"
          :alt="`${names[n]}, ${label}`"
          :data-shown="tryouts.shown === n"
        />
      </template>
      <img v-if="against && looked" :src="looked.src" :alt="`Difference of ${names[tryouts.shown]}, ${label}`" />
      <p v-if="failed" class="red said">{{ failed }}</p>
      <p v-else-if="against && looked" class="said num small">
        mean {{ Number(looked.figures.mean).toFixed(2) }} · largest {{ Number(looked.figures.largest).toFixed(0) }} of
        255 · shown × {{ differenceGain }}{{ looked.figures.scaled ? ' · other raster' : '' }}
      </p>
    </div>
    <div class="row small">
      <input
        v-model.number="tryouts.frame"
        class="grow"
        type="range"
        min="0"
        :max="tryouts.frames - 1"
        aria-label="Picture of the stretch"
      />
      <span class="num">{{ label }}</span>
      <span class="num quiet figure">{{ said }}</span>
    </div>
  </div>
</template>

<style scoped>
.flip {
  display: flex;
  flex-direction: column;
  gap: 6px;
  min-height: 0;
  flex: 1;
}
.bar {
  gap: 14px;
}
.pick {
  padding: 1px 2px;
  border-bottom: 2px solid transparent;
}
.pick[aria-checked='true'] {
  border-bottom-color: var(--crane);
  color: var(--crane);
}
.pick:disabled {
  color: var(--quiet);
  cursor: default;
  opacity: 0.6;
}
.frame {
  position: relative;
  flex: 1;
  min-height: 0;
  background: #000;
  overflow: auto;
}
.frame.stage {
  overflow: hidden;
}
.said {
  position: absolute;
  inset: auto 0 0;
  padding: 2px 8px 3px;
  color: #fff;
  background: rgb(0 0 0 / 0.65);
}
.figure {
  min-width: 20ch;
  text-align: right;
}
input[type='range'],
input[type='checkbox'] {
  accent-color: var(--crane);
}
</style>
