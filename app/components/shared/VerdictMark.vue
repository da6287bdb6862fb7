<script setup lang="ts">
import type { Verdict } from '../../../core/spec/judge'

withDefaults(defineProps<{ verdict: Verdict; size?: number; word?: boolean }>(), { size: 11, word: false })
const words: Record<Verdict, string> = {
  pass: 'pass',
  caution: 'caution',
  fail: 'fail',
  waived: 'waived',
  unmeasured: 'unmeasured',
  later: 'compared when written',
}
</script>

<template>
  <span class="mark" :class="verdict" :title="words[verdict]">
    <svg :width="size" :height="size" viewBox="0 0 12 12" role="img" :aria-label="words[verdict]">
      <circle v-if="verdict === 'pass'" cx="6" cy="6" r="3.6" fill="currentColor" />
      <g v-else-if="verdict === 'caution'">
        <path d="M6 .6 11.4 6 6 11.4.6 6Z" fill="none" stroke="currentColor" stroke-width="1.3" />
        <path d="M6 .6 11.4 6 6 11.4Z" fill="currentColor" />
      </g>
      <path v-else-if="verdict === 'fail'" d="M.8.8H8L11.2 4V11.2H.8Z" fill="currentColor" />
      <g v-else-if="verdict === 'waived'" fill="none" stroke="currentColor" stroke-width="1.5">
        <circle cx="6" cy="6" r="4.4" />
        <path d="M1.8 6H10.2" />
      </g>
      <circle
        v-else-if="verdict === 'later'"
        cx="6"
        cy="6"
        r="2.6"
        fill="none"
        stroke="currentColor"
        stroke-width="1.2"
      />
      <circle
        v-else
        cx="6"
        cy="6"
        r="4.4"
        fill="none"
        stroke="currentColor"
        stroke-width="1.3"
        stroke-dasharray="2 1.6"
      />
    </svg>
    <span v-if="word">{{ words[verdict] }}</span>
  </span>
</template>

<style scoped>
.mark {
  display: inline-flex;
  align-items: center;
  gap: 5px;
  flex: none;
}
.mark svg {
  display: block;
}
.pass {
  color: var(--moss);
}
.caution {
  color: var(--ochre);
}
.fail {
  color: var(--red);
}
.waived {
  color: var(--lilac);
}
.unmeasured,
.later {
  color: var(--quiet);
}
</style>
