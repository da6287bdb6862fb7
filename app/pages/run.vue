<script setup lang="ts">
import { useRuns } from '../stores/runs'

const runs = useRuns()
const planning = ref(!runs.current || runs.current.state === 'done')
watch(
  () => runs.current?.state,
  (s, was) => {
    if (s === 'running' && was !== 'running') planning.value = false
  },
)
</script>

<template>
  <NightPlan v-if="planning || !runs.current" @back="planning = false" />
  <NightRun v-else :run="runs.current" @plan="planning = true" />
</template>
