<script setup lang="ts">
import type { LogEntry } from '../../../contract/log'
import { useIntervalFn } from '@vueuse/core'
import { api } from '../../lib/api'
import { useProblems } from '../../stores/problems'

/** The last entries of the server's log: what went wrong, when, and what it was about. */
const entries = ref<readonly LogEntry[]>([])
const more = ref(false)
const load = () => useProblems().attempt(async () => (entries.value = await api('GET log')))
onMounted(load)
useIntervalFn(() => void load(), 10_000)
const shown = computed(() => entries.value.slice(0, more.value ? 100 : 5))
const when = (time: string) => {
  const at = new Date(time)
  const day = at.toDateString() === new Date().toDateString() ? '' : `${at.toLocaleDateString('en-GB')} `
  return `${day}${at.toLocaleTimeString('en-GB')}`
}
</script>

<template>
  <p v-if="!entries.length" class="quiet small">Nothing went wrong so far.</p>
  <div v-for="(e, i) in shown" :key="`${e.time}${i}`" class="entry small">
    <span class="num quiet">{{ when(e.time) }}</span>
    <span :class="e.level === 'warning' ? 'ochre' : e.level === 'info' ? 'quiet' : 'red'">{{ e.level }}</span>
    <span class="text">
      {{ e.text }}
      <span v-if="e.about.length" class="num quiet">{{ e.about.map(([k, v]) => `${k} ${v}`).join(' · ') }}</span>
    </span>
  </div>
  <button v-if="entries.length > 5" class="plain small" @click="more = !more">
    {{ more ? 'fewer' : `all ${entries.length}` }}
  </button>
</template>

<style scoped>
.entry {
  display: grid;
  grid-template-columns: auto 56px 1fr;
  gap: 8px;
  padding: 2px 0;
}
.text {
  overflow-wrap: anywhere;
}
</style>
