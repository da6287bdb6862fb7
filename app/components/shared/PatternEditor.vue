<script setup lang="ts">
import { templatePieces } from '../../../core/text'

/** A name pattern with its fields told apart from plain text, and fields to put in; `live` tells of every letter. */
const props = withDefaults(
  defineProps<{
    pattern: string
    fields: Readonly<Record<string, { readonly text: string }>>
    extension?: string
    live?: boolean
  }>(),
  { extension: '', live: false },
)
const emit = defineEmits<{ change: [pattern: string] }>()
const input = ref<HTMLInputElement>()
const text = ref(props.pattern)
watch(
  () => props.pattern,
  (p) => (text.value = p),
)
const parts = computed(() => templatePieces(text.value))

const fieldText = (field: string, prefix: number | null) => `{${field}${prefix ? `:${prefix}` : ''}}`
function insert(field: string) {
  const el = input.value!
  const at = el.selectionStart ?? text.value.length
  text.value = `${text.value.slice(0, at)}${fieldText(field, null)}${text.value.slice(el.selectionEnd ?? at)}`
  emit('change', text.value)
  void nextTick(() => {
    el.focus()
    el.setSelectionRange(at + field.length + 2, at + field.length + 2)
  })
}
/** Inserts the field that was picked; the list shows its first line again. */
function pick(list: HTMLSelectElement) {
  insert(list.value)
  list.value = ''
}
</script>

<template>
  <div class="editor">
    <div class="field num">
      <div class="shown" aria-hidden="true">
        <template v-for="(p, i) in parts" :key="i"
          ><span v-if="'text' in p">{{ p.text }}</span
          ><span v-else :class="p.field in fields ? 'known' : 'unknown'">{{
            fieldText(p.field, p.prefix)
          }}</span></template
        >
      </div>
      <input
        ref="input"
        v-model="text"
        aria-label="Name pattern"
        spellcheck="false"
        @input="live && emit('change', text)"
        @change="emit('change', text)"
        @keydown.enter.prevent="emit('change', text)"
      />
    </div>
    <span v-if="extension" class="quiet num">{{ extension }}</span>
    <select :value="''" aria-label="Put in a field" @change="pick($event.target as HTMLSelectElement)">
      <option value="" disabled>+ field</option>
      <option v-for="(field, f) in fields" :key="f" :value="f">{{ f }}: {{ field.text }}</option>
    </select>
  </div>
</template>

<style scoped>
.editor {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
}
.field {
  position: relative;
  flex: 1 0 200px;
  height: 30px;
  background: var(--ground);
  border: 1px solid var(--line);
  border-radius: 2px;
  font-size: 14px;
}
.field:focus-within {
  border-color: var(--crane);
}
.shown,
input {
  position: absolute;
  inset: 0;
  padding: 4px 8px;
  white-space: pre;
  overflow: hidden;
  font: inherit;
  letter-spacing: -0.02em;
}
input {
  background: transparent;
  border: 0;
  color: transparent;
  caret-color: var(--text);
  outline: none;
  width: 100%;
}
.known {
  color: var(--crane);
}
.unknown {
  color: var(--red);
  text-decoration: underline wavy;
}
select {
  background: var(--raised);
  color: var(--text);
  border: 1px solid var(--line);
  border-radius: 2px;
  font: inherit;
  font-size: 12.5px;
  padding: 4px 6px;
  width: 84px;
}
</style>
