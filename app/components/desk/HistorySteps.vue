<script setup lang="ts">
import { useSplit } from '../../stores/split'

/** The steps that led to the split as it is, the newest first, and those that were undone: a click goes there. */
const emit = defineEmits<{ close: [] }>()
const split = useSplit()
const future = computed(() => split.history.future.map((s, i) => ({ label: s.label, by: i + 1 })).reverse())
const past = computed(() => split.history.past.map((s, i, all) => ({ label: s.label, by: i - all.length })).reverse())
function jump(by: number) {
  split.jump(by)
  emit('close')
}
</script>

<template>
  <div class="steps panel" aria-label="Steps">
    <button v-for="s in future" :key="s.by" class="plain step quiet" :title="`Redo up to here`" @click="jump(s.by)">
      {{ s.label }}
    </button>
    <p class="now">now</p>
    <button v-for="s in past" :key="s.by" class="plain step" title="Undo this and what came after" @click="jump(s.by)">
      {{ s.label }}
    </button>
    <p v-if="!past.length && !future.length" class="quiet small">There are no steps yet.</p>
  </div>
</template>

<style scoped>
.steps {
  position: absolute;
  right: 10px;
  bottom: 36px;
  width: 300px;
  max-height: 420px;
  overflow: auto;
  padding: 8px 14px;
  z-index: 20;
  box-shadow: 0 8px 28px rgb(0 0 0 / 0.4);
}
.step {
  display: block;
  width: 100%;
  padding: 2px 0;
}
.now {
  color: var(--crane);
  border-top: 1px solid var(--line);
  border-bottom: 1px solid var(--line);
  margin: 4px 0;
}
</style>
