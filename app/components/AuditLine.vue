<script setup lang="ts">
import { plural } from '../lib/text'
import { lengthText } from '../../core/time/timecode'
import { findingWords, type Finding } from '../../core/split/audit'
import { useEditor } from '../stores/editor'
import { deskViews, useView } from '../stores/view'

/** Every fault of the split in words; a click goes there, and mends where that is plain. */
const desk = useEditor()
const view = useView()
const open = ref(false)
function go(f: Finding) {
  desk.go(f.range.in)
  if (f.regions[0]) desk.select(f.regions.at(-1)!)
  open.value = false
}
const counts = computed(() => {
  const by = new Map<Finding['kind'], Finding[]>()
  for (const f of desk.findings) by.set(f.kind, [...(by.get(f.kind) ?? []), f])
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
    <div v-if="open" class="sheet panel">
      <div v-for="(f, i) in desk.findings" :key="i" class="finding">
        <VerdictMark :verdict="f.severity" />
        <button class="plain grow" @click="go(f)">{{ f.text }}</button>
        <button v-if="f.fix" class="mend" @click="desk.fix(f)">{{ f.fix.label }}</button>
      </div>
      <p v-if="!desk.findings.length" class="quiet">Nothing is wrong with this split.</p>
    </div>
    <button class="plain head" :aria-expanded="open" @click="open = !open">Audit {{ open ? '▾' : '▴' }}</button>
    <span v-if="!desk.findings.length" class="quiet">{{
      desk.regions.length ? 'nothing wrong with this split' : 'nothing to audit yet'
    }}</span>
    <template v-for="(c, i) in counts" :key="c.kind">
      <span v-if="i" class="dot" aria-hidden="true">·</span>
      <button class="plain row" @click="go(c.first)">
        <VerdictMark :verdict="c.severity" :size="9" />{{ c.text }}
      </button>
    </template>
    <span class="grow" />
    <span v-if="desk.saving || desk.unsaved" class="quiet">saving …</span>
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
    <button class="plain quiet" :disabled="!desk.history.past.length" title="Undo (Ctrl+Z)" @click="desk.undo()">
      {{ desk.history.past.length ? `undo “${desk.history.past.at(-1)!.label}”` : 'nothing to undo' }}
    </button>
    <button v-if="desk.history.future.length" class="plain quiet" title="Redo (Ctrl+Shift+Z)" @click="desk.redo()">
      redo “{{ desk.history.future[0]!.label }}”
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
.sheet {
  position: absolute;
  left: 10px;
  bottom: 36px;
  width: 620px;
  max-height: 320px;
  overflow: auto;
  padding: 8px 12px;
  z-index: 20;
  box-shadow: 0 8px 28px rgb(0 0 0 / 0.4);
}
.finding {
  display: flex;
  align-items: center;
  gap: 9px;
  padding: 4px 0;
}
.mend {
  background: var(--raised);
  border: 1px solid var(--line);
  color: var(--crane);
  font: inherit;
  font-size: 12px;
  padding: 1px 8px;
  border-radius: 2px;
  cursor: pointer;
}
.mend:hover {
  border-color: var(--crane);
}
</style>
