<script setup lang="ts">
import type { Problem } from '../../../core/problem'
import type { Settings, SplitSetting } from '../../../core/split/settings'
import { regionNameFields } from '../../../core/split/naming'
import { timeBase } from '../../../core/timeline/model'
import { formatLength } from '../../../core/time/timecode'
import { useEditor } from '../../stores/editor'

/** Fields for what can be set of a way to split, or of a change; many lines have a slot of their own. */
defineProps<{
  settings: Settings
  values: Readonly<Record<string, number | string>>
  wrong: { readonly key: string; readonly problem: Problem } | null
}>()
const emit = defineEmits<{ type: [key: string, text: string] }>()
defineSlots<{ lines: (line: { field: string; setting: SplitSetting }) => unknown }>()
const desk = useEditor()
const id = useId()
const shown = (s: SplitSetting, value: number | string) =>
  s.kind === 'length' ? formatLength(Number(value), timeBase(desk.model!)) : String(value)
</script>

<template>
  <div class="settings">
    <template v-for="(s, key) in settings" :key="key">
      <div v-if="s.kind === 'lines'" class="wide"><slot name="lines" :field="String(key)" :setting="s" /></div>
      <div v-else-if="s.kind === 'pattern'" class="wide">
        <PatternEditor
          :pattern="String(values[key])"
          :fields="regionNameFields"
          live
          @change="emit('type', String(key), $event)"
        />
      </div>
      <template v-else>
        <label :for="`${id}-${key}`">{{ s.label }}</label>
        <div>
          <select
            v-if="s.kind === 'choice'"
            :id="`${id}-${key}`"
            class="box"
            :value="values[key]"
            @change="emit('type', String(key), ($event.target as HTMLSelectElement).value)"
          >
            <option v-for="[value, text] in s.choices" :key="value" :value="value">{{ text }}</option>
          </select>
          <input
            v-else-if="s.kind === 'text'"
            :id="`${id}-${key}`"
            class="box"
            :value="values[key]"
            :placeholder="s.hint"
            spellcheck="false"
            @input="emit('type', String(key), ($event.target as HTMLInputElement).value)"
          />
          <DraftInput
            v-else
            :id="`${id}-${key}`"
            class="num box"
            :class="{ wrong: wrong?.key === key }"
            :value="shown(s, values[key]!)"
            :title="s.hint ?? (s.kind === 'length' ? '25, 10s, 2min or h:mm:ss:ff' : '')"
            spellcheck="false"
            @change="emit('type', String(key), $event)"
          />
          <p v-if="wrong?.key === key" class="small red">{{ wrong.problem.message }} {{ wrong.problem.fix }}</p>
        </div>
      </template>
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
.box {
  width: 100%;
}
.wrong {
  border-color: var(--red);
}
</style>
