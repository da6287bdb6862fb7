<script setup lang="ts">
import type { ReadLine } from '../../../core/split/lines'

/** Lines that are typed or pasted, as they are; what is not understood of them is underlined, and said below. */
const props = defineProps<{
  text: string
  read: readonly Pick<ReadLine, 'text' | 'why'>[]
  placeholder: string
  label: string
}>()
const emit = defineEmits<{ change: [text: string] }>()
const scroll = ref(0)
const bad = computed(() => props.read.flatMap((l, i) => (l.why ? [{ no: i + 1, why: l.why }] : [])))
</script>

<template>
  <div>
    <div class="field num">
      <div class="shown" aria-hidden="true">
        <div :style="{ transform: `translateY(${-scroll}px)` }">
          <div v-for="(l, i) in read" :key="i" :class="{ bad: l.why }">{{ l.text || ' ' }}</div>
        </div>
      </div>
      <textarea
        :value="text"
        :placeholder="placeholder"
        :aria-label="label"
        wrap="off"
        spellcheck="false"
        @input="emit('change', ($event.target as HTMLTextAreaElement).value)"
        @scroll="scroll = ($event.target as HTMLElement).scrollTop"
        @keydown.enter="!$event.ctrlKey && $event.stopPropagation()"
      />
    </div>
    <p v-for="b in bad.slice(0, 4)" :key="b.no" class="small red">Line {{ b.no }}: {{ b.why }}</p>
    <p v-if="bad.length > 4" class="small red">and {{ bad.length - 4 }} more lines</p>
  </div>
</template>

<style scoped>
.field {
  position: relative;
  height: 168px;
  background: var(--ground);
  border: 1px solid var(--line);
  border-radius: 2px;
  font-size: 12.5px;
  line-height: 18px;
}
.field:focus-within {
  border-color: var(--crane);
}
.shown,
textarea {
  position: absolute;
  inset: 0;
  padding: 5px 7px;
  white-space: pre;
  font: inherit;
  line-height: inherit;
}
.shown {
  overflow: hidden;
  color: transparent;
  pointer-events: none;
}
.bad {
  text-decoration: underline wavy var(--red);
  text-underline-offset: 2px;
}
textarea {
  background: transparent;
  border: 0;
  color: var(--text);
  resize: none;
  outline: none;
}
</style>
