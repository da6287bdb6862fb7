<script setup lang="ts">
import { findingWords } from '../../../core/split/audit/finding'
import { kindNames, regionKinds } from '../../../core/split/kinds'
import { useEditor } from '../../stores/editor'
import { useRows } from '../../stores/rows'
import { useShelf } from '../../stores/shelf'

/** Which regions the table shows, and how many they are. */
const desk = useEditor()
const rows = useRows()
const shelf = useShelf()
const filter = ref<HTMLInputElement>()
defineExpose({ focus: () => filter.value?.focus() })
</script>

<template>
  <div class="head">
    <h3>
      Regions
      <span class="num quiet">{{
        rows.filtered ? `${rows.shown.length} of ${desk.regions.length}` : desk.regions.length
      }}</span>
    </h3>
    <input
      ref="filter"
      v-model="rows.text"
      class="field box"
      placeholder="names and papers that hold …  ( / )"
      aria-label="Filter by text"
      spellcheck="false"
      @keydown.esc="rows.text = ''"
    />
    <select v-model="rows.outlet" class="box" aria-label="Filter by outlet">
      <option value="">any outlet</option>
      <option value="none">no outlet</option>
      <option v-for="o in shelf.outlets" :key="o.id" :value="o.id">{{ o.name }}</option>
    </select>
    <select v-model="rows.kind" class="box" aria-label="Filter by kind">
      <option value="">any kind</option>
      <option value="none">no kind</option>
      <option v-for="k in kindNames" :key="k" :value="k">{{ regionKinds[k].one }}</option>
    </select>
    <select v-model="rows.verdict" class="box" aria-label="Filter by verdict">
      <option value="">any verdict</option>
      <option v-for="v in ['fail', 'caution', 'unmeasured', 'waived', 'pass']" :key="v" :value="v">{{ v }}</option>
    </select>
    <select v-model="rows.fault" class="box" aria-label="Filter by fault">
      <option value="">faulty or not</option>
      <option value="any">any fault</option>
      <option v-for="([one], kind) in findingWords" :key="kind" :value="kind">{{ one }}</option>
    </select>
    <button v-if="rows.filtered" class="plain small quiet" @click="rows.showAll()">show all</button>
  </div>
</template>

<style scoped>
.head {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 7px 12px;
  border-bottom: 1px solid var(--line);
  flex: none;
}
.head h3 {
  white-space: nowrap;
  margin-right: 6px;
}
.field {
  font-family: inherit;
  flex: 1;
  min-width: 120px;
}
</style>
