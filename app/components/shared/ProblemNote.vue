<script setup lang="ts">
import type { Problem } from '../../../core/problem'

defineProps<{ problem: Problem }>()
</script>

<template>
  <div class="note">
    <div>
      <span v-if="problem.where" class="where num">{{ problem.where }}</span> {{ problem.message }}
    </div>
    <div v-if="problem.fix" class="quiet">{{ problem.fix }}</div>
  </div>
</template>

<style scoped>
.note {
  font-size: 13px;
  line-height: 1.35;
  border-left: 3px solid var(--ochre);
  padding: 2px 0 2px 9px;
}
.where {
  color: var(--ochre);
  font-size: 12px;
}
</style>
