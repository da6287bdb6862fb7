<script setup lang="ts">
import type { ShownTimeline } from '../../../contract/timelines'
import { lumaLimits, waveformSize } from '../../../core/picture/waveform'
import { frameUrl } from '../../lib/stills'
import { useLooked } from '../../lib/looked'
import { useEditor } from '../../stores/editor'
import { usePlaying } from '../../stores/playing'

/** The waveform of the luma at the playhead, from the samples of the file itself, with the limits of EBU R 103. */
const props = defineProps<{ timeline: ShownTimeline }>()
const desk = useEditor()
const playing = usePlaying()
const { looked, failed } = useLooked(() =>
  playing.speed ? null : `${frameUrl(props.timeline, desk.playhead, 0)}&as=waveform`,
)
const { highest, lowest } = waveformSize
const y = (percent: number) => `${((highest - percent) / (highest - lowest)) * 100}%`
const limits: readonly number[] = [lumaLimits.highest, lumaLimits.lowest]
const lines = [100, 50, 0, ...limits]
const say = (v: number | boolean | undefined, digits: number) => Number(v).toFixed(digits).replace('-', '−')
const figures = computed(() => {
  const f = looked.value?.figures
  if (!f) return null
  const out = Math.max(Number(f.luma), Number(f.gamut))
  return {
    range: `luma ${say(f.lowest, 1)} … ${say(f.highest, 1)} %`,
    outside: `outside R 103: ${say(f.luma, 2)} % luma, ${say(f.gamut, 2)} % R′G′B′`,
    over: out > 1,
  }
})
</script>

<template>
  <figure class="scope" aria-label="Waveform">
    <div class="field">
      <span v-for="n in lines" :key="n" class="line num" :class="{ limit: limits.includes(n) }" :style="{ top: y(n) }"
        ><span>{{ String(n).replace('-', '−') }}</span></span
      >
      <img v-if="looked" :src="looked.src" alt="Waveform of the picture" />
      <p v-if="failed" class="small red">{{ failed }}</p>
      <p v-else-if="playing.speed" class="small quiet">where the playhead rests</p>
    </div>
    <figcaption class="row spread small">
      <span class="num">{{ figures?.range ?? ' ' }}</span><span class="num" :class="{ ochre: figures?.over }">{{
        figures?.outside
      }}</span>
    </figcaption>
  </figure>
</template>

<style scoped>
.scope {
  margin: 0;
}
.field {
  position: relative;
  height: 132px;
  background: #0c090e;
  overflow: hidden;
}
.field img {
  position: absolute;
  inset: 0 0 0 30px;
  width: calc(100% - 30px);
  height: 100%;
  mix-blend-mode: screen;
}
.field p {
  position: absolute;
  inset: auto 8px 4px auto;
}
.line {
  position: absolute;
  left: 30px;
  right: 0;
  height: 1px;
  background: #ffffff2e;
}
.line span {
  position: absolute;
  left: -28px;
  top: -6px;
  width: 24px;
  text-align: right;
  font-size: 9.5px;
  line-height: 12px;
  color: #ab9bb2;
}
.line.limit {
  background: #d9a441;
}
.line.limit span {
  display: none;
}
figcaption {
  margin-top: 2px;
  font-size: 11.5px;
}
</style>
