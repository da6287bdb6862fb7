<script setup lang="ts">
import { Moon, Search, Sun } from 'lucide-vue-next'
import type { Verdict } from '../../core/spec/judge'
import { worstVerdict } from '../../core/spec/judge'
import { clockText } from '../lib/text'
import { useDesk } from '../stores/desk'
import { useWorld } from '../stores/world'

const world = useWorld()
const desk = useDesk()
const route = useRoute()
const emit = defineEmits<{ find: []; keys: [] }>()

const theme = ref(localStorage.getItem('velvet.theme') ?? 'velvet')
watchEffect(() => {
  document.documentElement.className = theme.value
  localStorage.setItem('velvet.theme', theme.value)
})

const runText = computed(() => {
  const run = world.run
  if (!run) return ''
  if (run.state === 'running' && run.secondsLeft !== null) return clockText(Date.now() + run.secondsLeft * 1000)
  return run.state === 'done' ? `${run.items.filter((i) => i.state === 'done').length}/${run.items.length}` : run.state
})

const stations = computed((): { to: string; name: string; count: string | number; verdict: Verdict | null }[] => [
  {
    to: '/timelines',
    name: 'Timelines',
    count: world.timelines.length,
    verdict: world.timelines.some((t) => t.mediaProblem)
      ? 'fail'
      : world.timelines.some((t) => t.problems.length)
        ? 'caution'
        : null,
  },
  {
    to: '/desk',
    name: 'Desk',
    count: desk.regions.length,
    verdict: desk.findings.some((f) => f.severity === 'fail') ? 'fail' : desk.findings.length ? 'caution' : null,
  },
  { to: '/outlets', name: 'Outlets', count: world.deliverables.length, verdict: null },
  {
    to: '/checks',
    name: 'Checks',
    count: world.failing || '',
    verdict: world.deliverables.length ? world.worst : null,
  },
  {
    to: '/run',
    name: 'Night run',
    count: runText.value,
    verdict: world.run?.items.some((i) => i.state === 'failed') ? 'fail' : null,
  },
  {
    to: '/handover',
    name: 'Handover',
    count: world.handed.length,
    verdict: world.handed.length ? worstVerdict(world.handed.map((h) => h.proof.verdict)) : null,
  },
])
</script>

<template>
  <header class="line">
    <nav aria-label="Stations">
      <template v-for="(s, i) in stations" :key="s.to">
        <span v-if="i" class="then" aria-hidden="true">›</span>
        <NuxtLink :to="s.to" class="stop" :class="{ here: route.path.startsWith(s.to) }">
          <span>{{ s.name }}</span>
          <span v-if="s.count !== ''" class="num count">{{ s.count }}</span>
          <VerdictMark v-if="s.verdict && s.verdict !== 'pass'" :verdict="s.verdict" :size="10" />
        </NuxtLink>
      </template>
    </nav>
    <div class="row right">
      <select
        v-if="world.timelines.length"
        class="pick"
        aria-label="Timeline in hand"
        :value="world.timeline?.id"
        @change="world.choose(($event.target as HTMLSelectElement).value)"
      >
        <option v-for="t in world.timelines" :key="t.id" :value="t.id">{{ t.name }}</option>
      </select>
      <NuxtLink to="/shelf" class="stop" :class="{ here: route.path === '/shelf' }">Shelf</NuxtLink>
      <button class="icon" title="Find anything (Ctrl+K)" aria-label="Find anything" @click="emit('find')">
        <Search :size="16" />
      </button>
      <button
        class="icon"
        :title="theme === 'velvet' ? 'Paper theme' : 'Velvet theme'"
        aria-label="Change theme"
        @click="theme = theme === 'velvet' ? 'paper' : 'velvet'"
      >
        <Sun v-if="theme === 'velvet'" :size="16" /><Moon v-else :size="16" />
      </button>
      <button class="icon num" title="All keys (?)" aria-label="All keys" @click="emit('keys')">?</button>
    </div>
  </header>
</template>

<style scoped>
.line {
  height: 44px;
  flex: none;
  display: flex;
  align-items: stretch;
  justify-content: space-between;
  background: var(--surface);
  border-bottom: 1px solid var(--line);
  padding: 0 10px;
}
nav {
  display: flex;
  align-items: stretch;
}
.stop {
  display: flex;
  align-items: center;
  gap: 6px;
  padding: 0 9px;
  color: var(--quiet);
  text-decoration: none;
  position: relative;
  font-weight: 500;
}
.stop:hover {
  color: var(--text);
}
.stop.here {
  color: var(--text);
}
.stop.here::after {
  content: '';
  position: absolute;
  left: 8px;
  right: 8px;
  bottom: -1px;
  height: 3px;
  background: var(--crane);
  border-radius: 2px 2px 0 0;
}
.count {
  font-size: 12.5px;
  color: var(--crane);
}
.then {
  align-self: center;
  color: var(--line);
  font-size: 17px;
}
.right {
  gap: 4px;
}
.icon {
  background: none;
  border: 0;
  color: var(--quiet);
  width: 30px;
  height: 30px;
  display: grid;
  place-items: center;
  cursor: pointer;
  border-radius: 3px;
}
.icon:hover {
  color: var(--text);
  background: var(--raised);
}
.pick {
  background: var(--ground);
  color: var(--text);
  border: 1px solid var(--line);
  border-radius: 2px;
  font: inherit;
  font-size: 13px;
  padding: 3px 6px;
  max-width: 190px;
}
</style>
