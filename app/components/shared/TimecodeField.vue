<script setup lang="ts">
import { countedFrom } from '../../../core/time/midnight'
import { countsSamples } from '../../../core/time/rate'
import { formatTimecode, parseTyped } from '../../../core/time/timecode'
import type { TimeBase } from '../../../core/time/timecode'

/**
 * A timecode that can be typed over: whole labels, digits from the right, `+2s`, `-12`. `start` is the label of frame
 * 0.
 */
const props = defineProps<{ frame: number; base: TimeBase; start: number; label: string }>()
const emit = defineEmits<{ change: [frame: number] }>()
const text = ref('')
const wrong = ref(false)
const editing = ref(false)
const shown = computed(() => formatTimecode(props.start + props.frame, props.base))

function begin(e: FocusEvent) {
  text.value = shown.value
  editing.value = true
  void nextTick(() => (e.target as HTMLInputElement).select())
}
function finish(keep: boolean) {
  const typed = parseTyped(text.value, props.start + props.frame, props.base)
  const frame = typed === null ? null : countedFrom(props.start, typed, props.base)
  wrong.value = keep && frame === null
  if (keep && frame !== null && frame !== props.start + props.frame) emit('change', frame - props.start)
  if (!wrong.value) editing.value = false
}
function leave() {
  // what Enter has taken already is not taken twice
  if (editing.value) finish(true)
  editing.value = false
  wrong.value = false
}
function enter(field: HTMLInputElement) {
  finish(true)
  if (!wrong.value) field.blur()
}
function takeBack(field: HTMLInputElement) {
  text.value = shown.value
  field.blur()
}
</script>

<template>
  <input
    class="num tc"
    :style="{ width: `${shown.length + 0.2}ch` }"
    :class="{ wrong }"
    :aria-label="label"
    :title="
      wrong
        ? `Type ${countsSamples(base.rate) ? 'hh:mm:ss.5, seconds' : 'hh:mm:ss:ff, digits'} from the right, +2s or −12`
        : label
    "
    :value="editing ? text : shown"
    spellcheck="false"
    @focus="begin"
    @input="text = ($event.target as HTMLInputElement).value"
    @blur="leave"
    @keydown.enter.stop="enter($event.target as HTMLInputElement)"
    @keydown.esc.stop="takeBack($event.target as HTMLInputElement)"
    @click.stop
  />
</template>

<style scoped>
.tc {
  background: transparent;
  border: 0;
  border-bottom: 1px dotted transparent;
  color: inherit;
  font-size: inherit;
  padding: 0;
}
.tc:hover {
  border-bottom-color: var(--quiet);
}
.tc:focus {
  outline: none;
  border-bottom: 1px solid var(--crane);
}
.wrong {
  color: var(--red);
  border-bottom-color: var(--red) !important;
}
</style>
