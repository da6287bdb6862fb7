<script setup lang="ts">
import { gapsOf } from '../../lib/machines'
import { clockText, listed, plural } from '../../lib/text'
import { useShelf } from '../../stores/shelf'

/** Who does the work: the workers of this machine, and machines that joined, with what they see and lack. */
const shelf = useShelf()
/** This page's address is known in the browser only. */
const origin = ref('')
onMounted(() => (origin.value = location.origin))
const alone = computed(() => /^https?:\/\/(127\.|localhost|\[::1\])/.test(origin.value))
</script>

<template>
  <ProblemNote v-if="shelf.workerTrouble" :problem="shelf.workerTrouble" />
  <p v-else class="small">
    {{ plural(shelf.workers.length, 'worker process', 'worker processes') }} on this machine, at a low priority:
    <span class="num quiet">{{ shelf.workers.map((w) => w.pid).join(', ') }}</span>
  </p>
  <div v-for="m in shelf.machines" :key="m.id" class="machine small">
    <div class="row spread">
      <span
        ><strong>{{ m.name }}</strong> {{ plural(m.workers, 'worker') }},
        <span class="quiet">since {{ clockText(m.since) }}</span></span
      ><span class="num">{{ plural(m.done, 'step') }} done</span>
    </div>
    <p class="quiet">
      Sees {{ listed([...m.writes, ...m.reads]) }}<template v-for="g in gapsOf(m)" :key="g">; {{ g }}</template
      >{{ gapsOf(m).length ? ': what needs that is left to others' : '' }}.
    </p>
  </div>
  <p v-if="alone" class="small quiet">
    Other machines can take part when this one is started with <code class="num">--host</code>: they see the same
    storage, under paths of their own.
  </p>
  <p v-else class="small quiet">
    Another machine takes part with the key that was printed at the start of this one, and the folders where this
    storage is mounted there:
    <code class="num call">./velvet join {{ origin }} --key KEY --storage FOLDER</code>
  </p>
</template>

<style scoped>
.machine {
  margin-top: 8px;
  padding: 8px 0 2px;
  border-top: 1px solid var(--line);
}
.machine p {
  margin: 2px 0 0;
}
.call {
  display: block;
  overflow: auto;
  white-space: nowrap;
}
</style>
