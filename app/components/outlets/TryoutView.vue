<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import type { ShownTimeline } from '../../../contract/timelines'
import { longestTryout, type TriedPictures } from '../../../core/deliverable/tryout'
import { peakSignalToNoise } from '../../../core/picture/likeness'
import { nominalRate } from '../../../core/time/rate'
import { isTyping } from '../../lib/keys'
import { useTryouts } from '../../stores/tryouts'

/** Settings tried on a stretch of a region, side by side, before one of them becomes what is delivered. */
const props = defineProps<{ timeline: ShownTimeline }>()
const tryouts = useTryouts()
const base = computed(() => props.timeline.model)
const second = computed(() => nominalRate(base.value.rate))
const lengths = [1, 2, 4, 8, longestTryout]
const length = computed(() => tryouts.frames)

const kilobits = ({ bytes }: TriedPictures) => bytes.map((b) => (b * 8) / 1000)
const likeness = ({ errors }: TriedPictures) => errors.map((e) => peakSignalToNoise(e[0]))

useEventListener(window, 'keydown', (e: KeyboardEvent) => {
  if (e.ctrlKey || e.metaKey || isTyping(e)) return
  const far = e.shiftKey ? second.value : 1
  const actions: Record<string, () => void> = {
    ArrowDown: () => tryouts.step(far),
    ArrowUp: () => tryouts.step(-far),
    Home: () => tryouts.step(-tryouts.frame),
    End: () => tryouts.step(tryouts.frames),
    ' ': () => tryouts.show(tryouts.before),
    d: () => (tryouts.difference = !tryouts.difference),
    Enter: () => void tryouts.make(),
    Escape: () => tryouts.leave(),
  }
  const action = /^[0-3]$/.test(e.key) ? () => tryouts.show(Number(e.key)) : actions[e.key]
  if (!action) return
  e.preventDefault()
  action()
})
onMounted(() => void tryouts.make())
onBeforeUnmount(() => tryouts.leave())
</script>

<template>
  <section class="tryout" aria-label="Try settings">
    <div class="head row">
      <button class="plain quiet" @click="tryouts.leave()">‹ Outlets <kbd>Esc</kbd></button>
      <h2>Try settings</h2>
      <span class="clip"
        >{{ tryouts.region?.name || 'Without a name' }} <span class="quiet">for</span> {{ tryouts.outlet?.name }}</span
      >
      <span class="grow" />
      <span class="quiet small">stretch from</span>
      <TimecodeField
        :frame="tryouts.in"
        :base="base"
        :start="base.start"
        label="First frame of the stretch"
        @change="tryouts.stretch($event, length)"
      />
      <select
        class="box"
        aria-label="Length of the stretch"
        :value="length"
        @change="tryouts.stretch(tryouts.in, Number(($event.target as HTMLSelectElement).value))"
      >
        <option v-if="!lengths.some((s) => s * second === length)" :value="length">{{ length }} frames</option>
        <option v-for="s in lengths" :key="s" :value="s * second">{{ s }} s</option>
      </select>
      <Button size="small" :disabled="tryouts.busy || !tryouts.wanting" @click="tryouts.make()"
        >{{ tryouts.busy ? 'Making' : 'Make them' }} <kbd>⏎</kbd></Button
      >
    </div>
    <div class="body">
      <TryoutTable :timeline="timeline" />
      <div class="looking">
        <TryoutPicture :timeline="timeline" />
        <ClientOnly>
          <TryoutChart what="kbit a picture" :of="kilobits" :rate="base.rate" :digits="0" />
          <TryoutChart what="likeness of luma, dB" :of="likeness" :rate="base.rate" :digits="1" />
        </ClientOnly>
      </div>
    </div>
  </section>
</template>

<style scoped>
.tryout {
  height: 100%;
  display: flex;
  flex-direction: column;
}
.head {
  padding: 8px 16px;
  border-bottom: 1px solid var(--line);
  background: var(--surface);
  flex: none;
  gap: 12px;
}
.head > span,
.head > button {
  white-space: nowrap;
}
.body {
  flex: 1;
  min-height: 0;
  display: flex;
}
.looking {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
  padding: 10px 16px;
}
</style>
