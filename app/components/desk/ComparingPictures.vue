<script setup lang="ts">
import { useProblems } from '../../stores/problems'
import { useSplitting } from '../../stores/splitting'

/** How far it is known which pictures of two timelines are the same; there for as long as it is not. */
const splitting = useSplitting()
const share = computed(() => Math.round((splitting.likeness?.share ?? 0) * 100))
const waiting = computed(() => splitting.likeness?.state === 'waiting')
let timer: ReturnType<typeof setTimeout> | undefined
let gone = false
async function ask(again = false) {
  let on = true
  const answered = await useProblems().attempt(async () => {
    on = await splitting.compare(again)
  })
  // a server that does not answer just now is asked again, less often
  if (on && !gone) timer = setTimeout(() => void ask(), answered ? 700 : 3000)
}
onMounted(() => void ask())
onBeforeUnmount(() => {
  gone = true
  clearTimeout(timer)
})
</script>

<template>
  <div class="comparing" role="status">
    <template v-if="splitting.likeness?.state === 'failed'">
      <ProblemNote v-if="splitting.likeness.problem" :problem="splitting.likeness.problem" />
      <p v-else>The pictures of the two could not be compared.</p>
      <button class="plain" @click="ask(true)">Try again</button>
    </template>
    <template v-else>
      <p v-if="waiting">Looking through the pictures of both comes first; it is under way.</p>
      <p v-else>
        Looking for the same pictures … <span class="num">{{ share }} %</span>
      </p>
      <ProgressBar :value="share" />
      <p class="small quiet">Not both have a list, so regions follow what is seen.</p>
    </template>
  </div>
</template>

<style scoped>
.comparing {
  display: flex;
  flex-direction: column;
  gap: 7px;
  padding: 8px 0;
}
</style>
