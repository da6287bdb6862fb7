<script setup lang="ts">
import stations from '../../lib/stations.json'
import { countedFrom } from '../../../core/time/midnight'
import { formatTimecode, parseTimecode } from '../../../core/time/timecode'
import { useEditor } from '../../stores/editor'
import { useRuns } from '../../stores/runs'
import { useShelf } from '../../stores/shelf'
import { useTimelines } from '../../stores/timelines'

/** One field that finds regions, shots, outlets, stations, timecodes and what can be done. */
const emit = defineEmits<{ close: []; keys: [] }>()
const runs = useRuns()
const shelf = useShelf()
const timelines = useTimelines()
const desk = useEditor()
const text = ref('')
const at = ref(0)
interface Found {
  readonly kind: string
  readonly name: string
  readonly more: string
  readonly go: () => unknown
}

const everything = computed((): Found[] => [
  ...stations.map((s) => ({ kind: 'station', name: s.name, more: '', go: () => navigateTo(s.path) })),
  ...timelines.all.map((t) => ({
    kind: 'timeline',
    name: t.name,
    more: t.show,
    go: () => {
      timelines.choose(t.id)
      return navigateTo('/desk')
    },
  })),
  ...desk.regions.map((r) => ({
    kind: 'region',
    name: r.name || 'without a name',
    more: formatTimecode((desk.model?.start ?? 0) + r.in, desk.model!),
    go: () => {
      desk.select(r.id)
      desk.go(r.in)
      return navigateTo('/desk')
    },
  })),
  ...desk.shots.slice(0, 3000).map((s) => ({
    kind: 'shot',
    name: s.name || 'no name',
    more: `${s.reel} ${formatTimecode((desk.model?.start ?? 0) + s.in, desk.model!)}`,
    go: () => {
      desk.go(s.in)
      return navigateTo('/desk')
    },
  })),
  ...shelf.outlets.map((o) => ({
    kind: 'outlet',
    name: o.name,
    more: o.recipe.name,
    go: () => navigateTo({ path: '/outlets', query: { outlet: o.id } }),
  })),
  ...runs.finished.map((h) => ({
    kind: 'file',
    name: h.path.split('/').at(-1)!,
    more: h.outlet,
    go: () => navigateTo({ path: '/handover', query: { item: h.id } }),
  })),
  { kind: 'do', name: 'Show all keys', more: '?', go: () => emit('keys') },
])
const found = computed(() => {
  const t = text.value.trim().toLowerCase()
  const model = desk.model
  const label = model ? parseTimecode(t, model) : null
  const frame = model && label !== null ? countedFrom(model.start, label, model, model.start + model.length) : null
  const jump: Found[] =
    model && frame !== null
      ? [
          {
            kind: 'go to',
            name: formatTimecode(frame, model),
            more: '',
            go: () => {
              desk.go(frame - model.start)
              return navigateTo('/desk')
            },
          },
        ]
      : []
  return [
    ...jump,
    ...everything.value.filter((f) => !t || `${f.kind} ${f.name} ${f.more}`.toLowerCase().includes(t)),
  ].slice(0, 12)
})
watch(text, () => (at.value = 0))
function take(f: Found | undefined) {
  if (!f) return
  emit('close')
  void f.go()
}
</script>

<template>
  <Dialog
    :visible="true"
    modal
    :show-header="false"
    position="top"
    :style="{ width: '560px', marginTop: '60px' }"
    @update:visible="emit('close')"
  >
    <div class="find">
      <input
        v-model="text"
        autofocus
        class="bare ask"
        placeholder="Find a region, shot, outlet, station, or type a timecode"
        aria-label="Find anything"
        @keydown.down.prevent="at = Math.min(found.length - 1, at + 1)"
        @keydown.up.prevent="at = Math.max(0, at - 1)"
        @keydown.enter="take(found[at])"
        @keydown.esc="emit('close')"
      />
      <button
        v-for="(f, i) in found"
        :key="`${f.kind}${f.name}${f.more}${i}`"
        class="plain hit"
        :class="{ on: i === at }"
        @click="take(f)"
        @mousemove="at = i"
      >
        <span class="quiet kind">{{ f.kind }}</span><span class="grow clip">{{ f.name }}</span
        ><span class="num quiet small">{{ f.more }}</span>
      </button>
      <p v-if="!found.length" class="quiet hit">Nothing is called that.</p>
    </div>
  </Dialog>
</template>

<style scoped>
.find {
  padding-top: 16px;
}
.ask {
  font-size: 17px;
  padding-bottom: 8px;
  border-bottom: 1px solid var(--line);
  margin-bottom: 6px;
}
.hit {
  display: flex;
  gap: 10px;
  width: 100%;
  padding: 4px 6px;
  border-radius: 2px;
}
.hit.on {
  background: var(--raised);
  color: var(--text);
}
.kind {
  width: 70px;
  flex: none;
}
</style>
