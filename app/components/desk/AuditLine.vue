<script setup lang="ts">
import { plural } from '../../lib/text'
import { lengthText } from '../../../core/time/timecode'
import { grouped } from '../../../core/group'
import { findingWords, type Finding } from '../../../core/split/audit/finding'
import { useAudit } from '../../stores/audit'
import { useEditor } from '../../stores/editor'
import { useSplit } from '../../stores/split'
import { deskViews, useView } from '../../stores/view'

/** Every fault of the split in words; a click goes there, and mends where that is plain. */
const desk = useEditor()
const split = useSplit()
const audit = useAudit()
const view = useView()
const open = ref(false)
const steps = ref(false)
function go(f: Finding) {
  desk.go(f.range.in)
  if (f.regions[0]) desk.select(f.regions.at(-1)!)
  open.value = false
}
const counts = computed(() => {
  const by = grouped(audit.findings, (f) => f.kind)
  return [...by].map(([kind, list]) => {
    const frames = list.reduce((n, f) => n + f.range.out - f.range.in, 0)
    return {
      kind,
      severity: list[0]!.severity,
      first: list[0]!,
      text:
        kind === 'undelivered'
          ? `${lengthText(frames, desk.model!.rate)} nobody delivers`
          : plural(list.length, findingWords[kind][0], findingWords[kind][1]),
    }
  })
})
</script>

<template>
  <footer class="audit">
    <AuditSheet v-if="open" @go="go" />
    <HistorySteps v-if="steps" @close="steps = false" />
    <button class="plain head" :aria-expanded="open" @click="open = !open">Audit {{ open ? '▾' : '▴' }}</button>
    <span v-if="!audit.findings.length" class="quiet">{{
      desk.regions.length ? 'nothing wrong with this split' : 'nothing to audit yet'
    }}</span>
    <span class="counts grow">
      <template v-for="(c, i) in counts" :key="c.kind">
        <span v-if="i" class="dot" aria-hidden="true">·</span>
        <button class="plain row" @click="go(c.first)">
          <VerdictMark :verdict="c.severity" :size="9" />{{ c.text }}
        </button>
      </template>
      <button v-if="audit.accepted.length" class="plain row quiet" @click="open = true">
        <VerdictMark verdict="waived" :size="9" />{{ audit.accepted.length }} accepted
      </button>
    </span>
    <span v-if="split.saving || split.unsaved" class="quiet">saving …</span>
    <span class="views" role="radiogroup" aria-label="How the split is shown">
      <button
        v-for="v in deskViews"
        :key="v.name"
        role="radio"
        :aria-checked="view.shows === v.name"
        :title="`${v.hint} (${v.key})`"
        @click="view.shows = v.name"
      >
        {{ v.label }} <kbd>{{ v.key }}</kbd>
      </button>
    </span>
    <button class="plain quiet" :disabled="!split.history.past.length" title="Undo (Ctrl+Z)" @click="split.undo()">
      {{ split.history.past.length ? `undo “${split.history.past.at(-1)!.label}”` : 'nothing to undo' }}
    </button>
    <button class="plain quiet" title="All steps" :aria-expanded="steps" @click="steps = !steps">
      steps {{ steps ? '▾' : '▴' }}
    </button>
    <button v-if="split.history.future.length" class="plain quiet" title="Redo (Ctrl+Shift+Z)" @click="split.redo()">
      redo “{{ split.history.future[0]!.label }}”
    </button>
  </footer>
</template>

<style scoped>
.audit {
  height: 32px;
  flex: none;
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 0 14px;
  border-top: 1px solid var(--line);
  background: var(--surface);
  font-size: 12.5px;
  position: relative;
}
.head {
  font-weight: 600;
}
.dot {
  color: var(--line);
}
.row {
  gap: 5px;
}
.views {
  display: flex;
  border: 1px solid var(--line);
  border-radius: 2px;
}
.views button {
  background: none;
  border: 0;
  color: var(--quiet);
  font: inherit;
  padding: 1px 8px;
  cursor: pointer;
}
.views button[aria-checked='true'] {
  background: var(--raised);
  color: var(--crane);
}
.counts {
  display: flex;
  gap: 10px;
  overflow: hidden;
  white-space: nowrap;
}
</style>
