<script setup lang="ts">
import { useRuns } from '../stores/runs'

const runs = useRuns()
const planning = ref(!runs.current || runs.current.state === 'done')
const shown = computed(() => runs.opened ?? runs.current)
function plan() {
  runs.opened = null
  planning.value = true
}
watch(
  () => runs.current?.state,
  (s, was) => {
    if (s !== 'running' || was === 'running') return
    planning.value = false
    runs.opened = null
  },
)
</script>

<template>
  <NightPlan v-if="planning || !shown" @back="planning = false" />
  <NightRun v-else :run="shown" @plan="plan" />
</template>
