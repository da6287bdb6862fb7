<script setup lang="ts">
import { useLocalStorage, usePreferredDark } from '@vueuse/core'
import { Moon, Search, Sun } from '@lucide/vue'
import type { Verdict } from '../../../core/spec/judge'
import { worstVerdict } from '../../../core/spec/judge'
import stations from '../../lib/stations.json'
import { clockText } from '../../lib/text'
import { useAudit } from '../../stores/audit'
import { useEditor } from '../../stores/editor'
import { useDeliverables } from '../../stores/deliverables'
import { useRuns } from '../../stores/runs'
import { useTimelines } from '../../stores/timelines'

const deliverables = useDeliverables()
const runs = useRuns()
const timelines = useTimelines()
const desk = useEditor()
const audit = useAudit()
const route = useRoute()
const emit = defineEmits<{ find: []; keys: [] }>()

/** The theme that was chosen; until then the page goes with what the system prefers. */
const chosenTheme = useLocalStorage<string | null>('velvet.theme', null)
const dark = usePreferredDark()
const theme = computed(() => chosenTheme.value ?? (dark.value ? 'velvet' : 'paper'))
watchEffect(() => (document.documentElement.className = theme.value))

const runText = computed(() => {
  const run = runs.current
  if (!run) return ''
  if (run.state === 'running' && run.secondsLeft !== null) return clockText(Date.now() + run.secondsLeft * 1000)
  return run.state === 'done' ? `${run.items.filter((i) => i.state === 'done').length}/${run.items.length}` : run.state
})

/** What each station has to say, by its path. */
const says = computed((): Record<string, { count: string | number; verdict: Verdict | null }> => ({
  '/timelines': {
    count: timelines.all.length,
    verdict: timelines.all.some((t) => t.mediaProblem)
      ? 'fail'
      : timelines.all.some((t) => t.problems.length)
        ? 'caution'
        : null,
  },
  '/desk': {
    count: desk.regions.length,
    verdict: audit.findings.some((f) => f.severity === 'fail') ? 'fail' : audit.findings.length ? 'caution' : null,
  },
  '/outlets': { count: deliverables.all.length, verdict: null },
  '/checks': { count: deliverables.failing || '', verdict: deliverables.all.length ? deliverables.worst : null },
  '/run': {
    count: runText.value,
    verdict: runs.current?.items.some((i) => i.state === 'failed') ? 'fail' : null,
  },
  '/handover': {
    count: runs.finished.length,
    verdict: runs.finished.length ? worstVerdict(runs.finished.map((h) => h.verdict)) : null,
  },
}))
const line = stations.filter((s) => s.line)
const beside = stations.filter((s) => !s.line)
const none = { count: '', verdict: null }
const saysOf = (path: string) => says.value[path] ?? none
</script>

<template>
  <header class="line">
    <nav aria-label="Stations">
      <template v-for="(s, i) in line" :key="s.path">
        <span v-if="i" class="then" aria-hidden="true">›</span>
        <NuxtLink :to="s.path" class="stop" :class="{ here: route.path.startsWith(s.path) }">
          <span>{{ s.name }}</span>
          <span v-if="saysOf(s.path).count !== ''" class="num count">{{ saysOf(s.path).count }}</span>
          <VerdictMark
            v-if="saysOf(s.path).verdict && saysOf(s.path).verdict !== 'pass'"
            :verdict="saysOf(s.path).verdict!"
            :size="10"
          />
        </NuxtLink>
      </template>
    </nav>
    <div class="row right">
      <select
        v-if="timelines.all.length"
        class="pick"
        aria-label="Timeline in hand"
        :value="timelines.current?.id"
        @change="timelines.choose(($event.target as HTMLSelectElement).value)"
      >
        <option v-for="t in timelines.all" :key="t.id" :value="t.id">{{ t.name }}</option>
      </select>
      <NuxtLink v-for="s in beside" :key="s.path" :to="s.path" class="stop" :class="{ here: route.path === s.path }">{{
        s.name
      }}</NuxtLink>
      <button class="icon" title="Find anything (Ctrl+K)" aria-label="Find anything" @click="emit('find')">
        <Search :size="16" />
      </button>
      <button
        class="icon"
        :title="theme === 'velvet' ? 'Paper theme' : 'Velvet theme'"
        aria-label="Change theme"
        @click="chosenTheme = theme === 'velvet' ? 'paper' : 'velvet'"
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
