<script setup lang="ts">
import {
  settingNames,
  settingsOf,
  settingText,
  type Overrides,
  type Recipe,
  type Setting,
} from '../../core/recipe/recipe'

/** The settings a recipe of this kind has. Overridden values are underlined and say what they replace. */
const props = defineProps<{ recipe: Recipe; overrides?: Overrides; base?: Recipe }>()
const emit = defineEmits<{ set: [values: Overrides]; reset: [setting: Setting] }>()
const settings = computed(() => settingsOf[props.recipe.kind])
const overridden = (s: Setting) => props.overrides !== undefined && s in props.overrides

const choices: Partial<Record<Setting, [unknown, string][]>> = {
  container: [
    ['mov', 'MOV'],
    ['mp4', 'MP4'],
  ],
  fit: [
    ['letterbox', 'letterbox, pillarbox'],
    ['crop', 'crop'],
    ['stretch', 'stretch'],
    ['unscaled', 'unscaled'],
  ],
  soundDepth: [
    [24, '24 bit'],
    [16, '16 bit'],
  ],
  burnTimecode: [
    [false, 'no'],
    [true, 'yes'],
  ],
  burnName: [
    [false, 'no'],
    [true, 'yes'],
  ],
}
const wrong = ref<Setting | null>(null)
function typed(s: Setting, text: string) {
  const t = text.trim().toLowerCase()
  let value: unknown
  if (s === 'channels')
    value =
      t === 'all' || t === 'none'
        ? t
        : t
            .split(/[\s,]+/)
            .filter(Boolean)
            .map((x) => (x === '–' || x === '-' ? 0 : Number(x)))
  else if (s === 'start') value = t === 'timeline' || t === 'from the timeline' || t === '' ? 'timeline' : text.trim()
  else if (s === 'width' || s === 'height') value = t === '' || t.startsWith('as') ? null : Number(t)
  else value = Number(t.replace('−', '-').replace(/[^0-9.-]/g, ''))
  const bad =
    (Array.isArray(value) && (value.length === 0 || value.some((v) => !Number.isInteger(v)))) ||
    (typeof value === 'number' && Number.isNaN(value)) ||
    (s === 'start' && value !== 'timeline' && !/^\d\d:\d\d:\d\d[:;]\d\d$/.test(String(value)))
  wrong.value = bad ? s : null
  if (!bad) emit('set', { [s]: value } as Overrides)
}
const hints: Partial<Record<Setting, string>> = {
  channels: 'all, none, or source channels in order: 1 2; – is silence',
  start: 'timeline, or hh:mm:ss:ff',
  width: 'pixels, or empty for the source’s',
  height: 'lines, or empty for the source’s',
  gain: 'dB',
}
</script>

<template>
  <div class="settings">
    <template v-for="s in settings" :key="s">
      <label :for="`set-${s}`" :class="{ over: overridden(s) }">{{ settingNames[s] }}</label>
      <div>
        <div class="row">
          <select
            v-if="choices[s]"
            :id="`set-${s}`"
            :value="JSON.stringify(recipe[s])"
            @change="emit('set', { [s]: JSON.parse(($event.target as HTMLSelectElement).value) })"
          >
            <option v-for="[v, word] in choices[s]" :key="word" :value="JSON.stringify(v)">{{ word }}</option>
          </select>
          <DraftInput
            v-else
            :id="`set-${s}`"
            class="num"
            :class="{ wrong: wrong === s }"
            :value="settingText(s, recipe[s])"
            :title="hints[s]"
            spellcheck="false"
            @change="typed(s, $event)"
          />
          <button
            v-if="overridden(s)"
            class="plain quiet small"
            title="Back to the outlet’s value"
            @click="emit('reset', s)"
          >
            ↺
          </button>
        </div>
        <p v-if="wrong === s" class="small red">{{ hints[s] ?? 'this value cannot be read' }}</p>
        <p v-else-if="overridden(s) && base" class="small quiet">instead of {{ settingText(s, base[s]) }}</p>
      </div>
    </template>
  </div>
</template>

<style scoped>
.settings {
  display: grid;
  grid-template-columns: 128px 1fr;
  gap: 5px 10px;
  align-items: baseline;
  font-size: 13px;
}
label {
  color: var(--quiet);
}
label.over {
  color: var(--crane);
  text-decoration: underline;
  text-underline-offset: 3px;
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
