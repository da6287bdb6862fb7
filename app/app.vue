<script setup lang="ts">
import { isTyping } from './lib/keys'
import { pageTitle } from './lib/title'
import { useEditor } from './stores/editor'
import { useSplit } from './stores/split'
import { useProblems } from './stores/problems'
import { useRuns } from './stores/runs'
import { useSession } from './stores/session'
import { useShelf } from './stores/shelf'
import { useTimelines } from './stores/timelines'

const problems = useProblems()
const session = useSession()
const timelines = useTimelines()
const desk = useEditor()
const split = useSplit()
const shelf = useShelf()
const runs = useRuns()
const route = useRoute()
useHead({ title: () => pageTitle(route.path, timelines.current?.name, runs.current) })
const finding = ref(false)
const keys = ref(false)

watch(
  () => timelines.current,
  (t) => t && desk.lay(t),
  { immediate: true },
)
onMounted(() => {
  void session.start()
  window.addEventListener('keydown', (e) => {
    if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'k') {
      e.preventDefault()
      finding.value = true
    } else if (e.key === '?' && !isTyping(e)) keys.value = true
  })
  window.addEventListener('pagehide', () => split.keepHistory())
  // a file dropped beside a drop zone must not replace the page
  for (const type of ['dragover', 'drop']) window.addEventListener(type, (e) => e.preventDefault())
})
</script>

<template>
  <div class="shell">
    <TheLine @find="finding = true" @keys="keys = true" />
    <p v-if="session.silent" class="silent" role="alert">
      The server does not answer. What was saved is safe; start it again with <span class="num">./velvet</span>. Trying
      again …
    </p>
    <p v-for="p in shelf.damaged" :key="`${p.where}${p.message}`" class="silent" role="alert">
      {{ p.where }}: {{ p.message }} {{ p.fix }}
    </p>
    <main class="grow">
      <NuxtPage v-if="session.loaded" />
      <p v-else class="quiet waiting">Opening …</p>
    </main>
    <div class="problems" aria-live="polite">
      <div v-for="p in problems.all" :key="p.key" class="problem">
        <ProblemNote :problem="p" />
        <button class="plain" aria-label="Close" @click="problems.dismiss(p.key)">✕</button>
      </div>
    </div>
    <FindAnything v-if="finding" @close="finding = false" @keys="keys = true" />
    <KeySheet v-if="keys" @close="keys = false" />
  </div>
</template>

<style scoped>
.shell {
  height: 100vh;
  display: flex;
  flex-direction: column;
}
main {
  min-height: 0;
  overflow: hidden;
}
.waiting {
  padding: 40px;
}
.silent {
  background: var(--red-ground);
  color: var(--text);
  padding: 6px 16px;
  font-size: 13px;
}
.problems {
  position: fixed;
  right: 14px;
  bottom: 44px;
  display: flex;
  flex-direction: column;
  gap: 8px;
  width: 400px;
  z-index: 2000;
}
.problem {
  background: var(--raised);
  border: 1px solid var(--line);
  padding: 10px 12px;
  display: flex;
  gap: 10px;
  justify-content: space-between;
  align-items: start;
  box-shadow: 0 6px 24px rgb(0 0 0 / 0.35);
  border-radius: 3px;
}
@media print {
  .shell {
    height: auto;
    display: block;
  }
  main {
    overflow: visible;
  }
  .problems {
    display: none;
  }
  .shell > :deep(header) {
    display: none;
  }
}
</style>
