<script setup lang="ts">
import type { Region } from '../../../core/split/region'
import { kindNames, regionKinds, type KindOfRegion } from '../../../core/split/kinds'
import { useEditor } from '../../stores/editor'

/** What a region is, as outlets ask for it; what is said of one that is selected counts for all that are. */
const props = defineProps<{ region: Region }>()
const desk = useEditor()
function say(text: string) {
  const ids = desk.selected.includes(props.region.id) ? desk.selected : [props.region.id]
  desk.setKind(ids, (text || null) as KindOfRegion | null)
}
</script>

<template>
  <select
    class="kind"
    :class="{ none: !region.kind }"
    :value="region.kind ?? ''"
    aria-label="Kind of region"
    title="What it is, as outlets ask for it"
    @change="say(($event.target as HTMLSelectElement).value)"
    @click.stop
    @keydown.stop
  >
    <option value="">no kind</option>
    <option v-for="k in kindNames" :key="k" :value="k">{{ regionKinds[k].one }}</option>
  </select>
</template>

<style scoped>
.kind {
  appearance: none;
  background: transparent;
  border: 0;
  border-bottom: 1px dotted transparent;
  color: var(--text);
  font:
    12px 'Hanken Grotesk Variable',
    sans-serif;
  padding: 0;
  min-width: 0;
  cursor: pointer;
}
.kind:hover,
.kind:focus {
  border-bottom-color: var(--quiet);
}
.none {
  color: var(--quiet);
}
option {
  background: var(--raised);
  color: var(--text);
}
</style>
