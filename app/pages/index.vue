<script setup lang="ts">
import { useWorld } from '../stores/world'

// opens where work is: on the desk when there is a timeline, else where timelines come in
await navigateTo(useWorld().timelines.length ? '/desk' : '/timelines', { replace: true })
</script>

<template>
  <div />
</template>
