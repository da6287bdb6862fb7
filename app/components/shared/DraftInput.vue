<script setup lang="ts">
import type { Problem } from '../../../core/problem'
import { useProblems } from '../../stores/problems'

/**
 * A text field whose typing is its own until it is left: what changes around it meanwhile does not wipe it. Escape
 * takes it back. What `refuse` has against it is shown while it is typed, and Enter does not leave it then.
 */
const props = defineProps<{ value: string; refuse?: (text: string) => Problem | null }>()
const emit = defineEmits<{ change: [value: string] }>()
const draft = ref<string | null>(null)
const refused = computed(() => (draft.value === null ? null : (props.refuse?.(draft.value.trim()) ?? null)))

function finish() {
  const text = draft.value
  const problem = refused.value
  draft.value = null
  if (problem) useProblems().say(problem)
  else if (text !== null && text !== props.value) emit('change', text)
}
function leave(e: KeyboardEvent, keep: boolean) {
  if (keep && refused.value) {
    useProblems().say(refused.value)
    // whatever else Enter does does not happen either
    e.stopImmediatePropagation()
    return
  }
  if (!keep) draft.value = null
  ;(e.target as HTMLInputElement).blur()
}
</script>

<template>
  <input
    :value="draft ?? value"
    :class="{ refused }"
    :title="refused?.message"
    @focus="draft = value"
    @input="draft = ($event.target as HTMLInputElement).value"
    @blur="finish()"
    @keydown.enter.prevent="leave($event, true)"
    @keydown.esc="leave($event, false)"
  />
</template>

<style scoped>
.refused,
.refused:focus {
  color: var(--red);
  border-bottom-color: var(--red);
}
</style>
