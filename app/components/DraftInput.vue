<script setup lang="ts">
/**
 * A text field whose typing is its own until it is left: what changes around it meanwhile does not wipe it. Escape
 * takes it back.
 */
const props = defineProps<{ value: string }>()
const emit = defineEmits<{ change: [value: string] }>()
const draft = ref<string | null>(null)

function finish() {
  const text = draft.value
  draft.value = null
  if (text !== null && text !== props.value) emit('change', text)
}
function leave(e: KeyboardEvent, keep: boolean) {
  if (!keep) draft.value = null
  ;(e.target as HTMLInputElement).blur()
}
</script>

<template>
  <input
    :value="draft ?? value"
    @focus="draft = value"
    @input="draft = ($event.target as HTMLInputElement).value"
    @blur="finish()"
    @keydown.enter.prevent="leave($event, true)"
    @keydown.esc="leave($event, false)"
  />
</template>
