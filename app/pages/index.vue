<script setup lang="ts">
import { useTimelines } from '../stores/timelines'

// opens where work is: on the desk when there is a timeline, else where timelines come in
await navigateTo(useTimelines().all.length ? '/desk' : '/timelines', { replace: true })
</script>

<template>
  <div />
</template>
