<script setup lang="ts">
import type { ShownTimeline, VersionChanges } from '../../../contract/timelines'
import type { Change, ChangeKind } from '../../../core/timeline/versions'
import { formatTimecode } from '../../../core/time/timecode'
import { api } from '../../lib/api'
import { showOnDesk } from '../../lib/go'
import { plural } from '../../lib/text'
import { useProblems } from '../../stores/problems'

/** What changed in a timeline against the version before it, shot by shot. */
const props = defineProps<{ timeline: ShownTimeline }>()
const problems = useProblems()
const found = ref<VersionChanges | null>(null)
watch(
  () => [props.timeline.id, props.timeline.fingerprint.content],
  () =>
    void problems.attempt(async () => {
      found.value = await api('GET timelines/:id/changes', { params: { id: props.timeline.id } })
    }),
  { immediate: true },
)

const kinds: ChangeKind[] = ['new', 'gone', 'trimmed', 'moved', 'kept']
const counts = computed(() =>
  kinds
    .map((kind) => ({ kind, n: found.value?.changes.filter((c) => c.kind === kind).length ?? 0 }))
    .filter((c) => c.n),
)
const only = ref<ChangeKind | null>(null)
const shown = computed(() => (found.value?.changes ?? []).filter((c) => c.kind === only.value).slice(0, 200))
const by = (c: Change) => (c.was ? c.in - c.was.in : 0)
function show(c: Change) {
  if (c.kind !== 'gone') void showOnDesk(props.timeline.id, c.in)
}
</script>

<template>
  <section v-if="found" class="changes" :aria-label="`Changes of ${timeline.name}`">
    <span class="quiet">Against {{ found.against }}:</span>
    <button
      v-for="c in counts"
      :key="c.kind"
      class="plain kind"
      :class="[c.kind, { on: only === c.kind }]"
      :aria-pressed="only === c.kind"
      @click="only = only === c.kind ? null : c.kind"
    >
      <span class="num">{{ c.n }}</span> {{ c.kind }}
    </button>
    <ul v-if="only">
      <li v-for="(c, i) in shown" :key="i">
        <button class="plain num" :disabled="c.kind === 'gone'" @click="show(c)">
          {{ formatTimecode(timeline.model.start + c.in, timeline.model) }}
        </button>
        <span class="clip">{{ c.name }}</span>
        <span class="num quiet">{{ plural(c.out - c.in, 'frame') }}</span>
        <span v-if="c.kind === 'moved' || c.kind === 'trimmed'" class="quiet"
          >{{ by(c) === 0 ? 'in place' : `${plural(Math.abs(by(c)), 'frame')} ${by(c) > 0 ? 'later' : 'earlier'}`
          }}<template v-if="c.was && c.was.out - c.was.in !== c.out - c.in"
            >, was {{ plural(c.was.out - c.was.in, 'frame') }}</template
          ></span
        >
        <span v-else-if="c.kind === 'gone'" class="quiet">in {{ found.against }} only</span>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.changes {
  padding: 8px 16px;
  border-top: 1px solid var(--line);
  font-size: 13.5px;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  align-items: baseline;
}
.kind {
  border-bottom: 1.5px solid transparent;
}
.kind.on {
  border-bottom-color: var(--crane);
}
.new .num {
  color: var(--moss);
}
.gone .num {
  color: var(--red);
}
.trimmed .num,
.moved .num {
  color: var(--ochre);
}
ul {
  list-style: none;
  margin: 4px 0 0;
  padding: 0;
  width: 100%;
  max-height: 220px;
  overflow: auto;
}
li {
  display: grid;
  grid-template-columns: 100px minmax(0, 260px) 100px 1fr;
  gap: 14px;
  padding: 2px 0;
  border-top: 1px solid var(--line);
}
</style>
