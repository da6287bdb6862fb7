<script setup lang="ts">
import type { RuleResult } from '../../../core/spec/judge'
import { groups } from '../../../core/measure/measure'
import { measureOf } from '../../../core/measure/registry'
import { groupWords } from '../../lib/marks'

/** What every rule says of a file from elsewhere, group by group. */
const props = defineProps<{ results: readonly RuleResult[] }>()
const byGroup = computed(() =>
  groups
    .map((g) => ({
      name: groupWords[g],
      results: props.results.filter((r) => measureOf(r.rule.measure).group === g),
    }))
    .filter((g) => g.results.length),
)
</script>

<template>
  <table v-for="g in byGroup" :key="g.name">
    <caption>
      {{
        g.name
      }}
    </caption>
    <tbody>
      <tr v-for="r in g.results" :key="r.rule.id" :title="r.why">
        <td class="mark"><VerdictMark :verdict="r.verdict" :size="r.verdict === 'pass' ? 8 : 11" /></td>
        <th scope="row">{{ measureOf(r.rule.measure).label }}</th>
        <td>
          {{ r.written?.text ?? 'not measured' }}
          <template v-if="r.verdict !== 'pass'"
            ><br /><span class="small quiet">required: {{ r.required }} · {{ r.rule.clause }}</span></template
          >
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
table {
  width: 100%;
  border-collapse: collapse;
  font-size: 13.5px;
  margin-bottom: 12px;
  table-layout: fixed;
}
caption {
  text-align: left;
  font-size: 11.5px;
  font-weight: 600;
  color: var(--quiet);
  padding: 4px 0;
  border-bottom: 1px solid var(--line);
}
td,
th {
  text-align: left;
  vertical-align: top;
  padding: 3px 0;
  font-weight: 450;
  border-bottom: 1px solid color-mix(in srgb, var(--line) 45%, transparent);
  overflow-wrap: anywhere;
}
th {
  width: 158px;
}
.mark {
  width: 20px;
}
</style>
