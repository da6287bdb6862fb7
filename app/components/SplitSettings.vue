<script setup lang="ts">
import { timeBase } from '../../core/timeline/model'
import { formatLength } from '../../core/time/timecode'
import { readLines, type LineOptions } from '../../core/split/lines'
import type { SplitSetting } from '../../core/split/makers/settings'
import { useEditor } from '../stores/editor'
import { useSplitting } from '../stores/splitting'

/** What can be set of the way to split that was chosen. */
const desk = useEditor()
const splitting = useSplitting()
const shown = (s: SplitSetting, value: number | string) =>
  s.kind === 'length' ? formatLength(Number(value), timeBase(desk.model!)) : String(value)
const read = computed(() => {
  const { text, from, end } = splitting.set as unknown as LineOptions & { readonly text?: string }
  return text === undefined ? [] : readLines(text, desk.model!, { from, end })
})

async function open(files: FileList | null) {
  const [f] = files ?? []
  if (f) splitting.list = { text: await f.text(), fileName: f.name }
}
</script>

<template>
  <div class="settings">
    <template v-for="(s, key) in splitting.maker.settings ?? {}" :key="`${splitting.way} ${key}`">
      <LinesField
        v-if="s.kind === 'lines'"
        class="wide"
        :text="String(splitting.set[key])"
        :read="read"
        :placeholder="s.hint ?? ''"
        :label="s.label"
        @change="splitting.type(String(key), $event)"
      />
      <template v-else>
        <label :for="`way-${key}`">{{ s.label }}</label>
        <div>
          <select
            v-if="s.kind === 'choice'"
            :id="`way-${key}`"
            :value="splitting.set[key]"
            @change="splitting.type(String(key), ($event.target as HTMLSelectElement).value)"
          >
            <option v-for="[value, text] in s.choices" :key="value" :value="value">{{ text }}</option>
          </select>
          <input
            v-else-if="s.kind === 'text'"
            :id="`way-${key}`"
            :value="splitting.set[key]"
            :placeholder="s.hint"
            spellcheck="false"
            @input="splitting.type(String(key), ($event.target as HTMLInputElement).value)"
          />
          <DraftInput
            v-else
            :id="`way-${key}`"
            class="num"
            :class="{ wrong: splitting.wrong?.key === key }"
            :value="shown(s, splitting.set[key]!)"
            :title="s.hint ?? (s.kind === 'length' ? '25, 10s, 2min or h:mm:ss:ff' : '')"
            spellcheck="false"
            @change="splitting.type(String(key), $event)"
          />
          <p v-if="splitting.wrong?.key === key" class="small red">
            {{ splitting.wrong.problem.message }} {{ splitting.wrong.problem.fix }}
          </p>
        </div>
      </template>
    </template>
    <template v-if="splitting.way === 'file'">
      <label for="way-file">File</label>
      <input id="way-file" type="file" @change="open(($event.target as HTMLInputElement).files)" />
    </template>
  </div>
</template>

<style scoped>
.settings {
  display: grid;
  grid-template-columns: 148px 1fr;
  gap: 6px 10px;
  align-items: baseline;
  font-size: 13px;
}
.wide {
  grid-column: 1 / -1;
}
label {
  color: var(--quiet);
}
input,
select {
  background: var(--ground);
  border: 1px solid var(--line);
  color: var(--text);
  font-size: 12.5px;
  padding: 2px 6px;
  border-radius: 2px;
  width: 100%;
  min-width: 0;
}
select {
  font-family: inherit;
}
.wrong {
  border-color: var(--red);
}
</style>
