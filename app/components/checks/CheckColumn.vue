<script setup lang="ts">
import type { DeliverableSummary } from '../../../contract/deliverables'
import { measureOf } from '../../../core/measure/registry'
import { worstVerdict, type Verdict } from '../../../core/spec/judge'
import { marksOf } from '../../lib/marks'

/** One deliverable's verdicts, rule under rule, in the Checks. */
const props = defineProps<{
  deliverable: DeliverableSummary
  number: string
  name: string
  /** Measures by group, in the order of rows. */
  groups: readonly { readonly name: string; readonly list: readonly string[] }[]
  /** The measure in hand, and whether this is the deliverable in hand. */
  row: string | null
  hand: boolean
}>()
defineEmits<{ head: []; take: [measure: string] }>()

const verdicts = computed(() => {
  const out = new Map<string, Verdict>()
  for (const { rule, verdict } of marksOf(props.deliverable)) {
    const other = out.get(rule.measure)
    out.set(rule.measure, other ? worstVerdict([other, verdict]) : verdict)
  }
  return out
})
</script>

<template>
  <div class="column" :class="{ hand }">
    <button class="plain head" :title="deliverable.title" @click="$emit('head')">
      <VerdictMark :verdict="deliverable.verdict" :size="9" /><span class="vertical"
        ><span class="num quiet">{{ number }}</span> {{ name }}</span
      >
    </button>
    <template v-for="g in groups" :key="g.name">
      <div class="group" />
      <template v-for="m in g.list" :key="m">
        <button
          v-if="verdicts.has(m)"
          class="cell cellmark"
          :class="{ across: row === m, hand: hand && row === m }"
          :aria-label="`${measureOf(m).label}, ${deliverable.title}: ${verdicts.get(m)}`"
          @click="$emit('take', m)"
        >
          <VerdictMark :verdict="verdicts.get(m)!" :size="verdicts.get(m) === 'pass' ? 8 : 12" />
        </button>
        <div v-else class="cell" :class="{ across: row === m }" />
      </template>
    </template>
  </div>
</template>

<style scoped>
.column {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 32px;
  contain: strict;
  will-change: transform;
}
.column.hand,
.cell.across {
  background: color-mix(in srgb, var(--raised) 55%, transparent);
}
.column.hand .head {
  color: var(--crane);
}
.head {
  display: flex;
  flex-direction: column;
  align-items: center;
  justify-content: flex-end;
  gap: 6px;
  width: 32px;
  height: 170px;
  padding-bottom: 5px;
  position: sticky;
  top: 60px;
  margin-top: 22px;
  background: var(--ground);
  border-bottom: 1px solid var(--line);
  z-index: 2;
}
.vertical {
  writing-mode: vertical-rl;
  transform: rotate(180deg);
  height: 140px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  font-size: 12.5px;
  order: -1;
  text-align: left;
}
.group {
  height: 27px;
  border-bottom: 1px solid var(--line);
}
.cell {
  display: grid;
  place-items: center;
  width: 32px;
  height: 21px;
  padding: 0;
  border: 0;
  border-bottom: 1px solid color-mix(in srgb, var(--line) 45%, transparent);
  background: none;
}
.cellmark {
  cursor: pointer;
}
.cell.hand {
  outline: 2px solid var(--crane);
  outline-offset: -2px;
}
</style>
