<script setup lang="ts">
import { containers } from '../../core/container/registry'
import type { Overrides, Recipe } from '../../core/recipe/recipe'
import { recipeKind } from '../../core/recipe/registry'
import { settings as definitions, settingText, settingValue, type Setting } from '../../core/recipe/settings'
import { useShelf } from '../stores/shelf'

/** The settings a recipe of this kind has. Overridden values are underlined and say what they replace. */
const shelf = useShelf()
const props = defineProps<{ recipe: Recipe; overrides?: Overrides; base?: Recipe }>()
const emit = defineEmits<{ set: [values: Overrides]; reset: [setting: Setting] }>()
const settings = computed(() => recipeKind(props.recipe).settings)
const overridden = (s: Setting) => props.overrides !== undefined && s in props.overrides

/** All values a setting can have, with their words, where they are few. */
function choicesOf(s: Setting): readonly (readonly [unknown, string])[] | undefined {
  const own: { readonly choices?: readonly (readonly [unknown, string])[] } = definitions[s]
  if (s === 'table') {
    const gone = props.recipe.table !== null && !shelf.tables.some((t) => t.id === props.recipe.table)
    return [
      [null, 'none'],
      ...shelf.tables.map((t) => [t.id, `${t.name} (${t.shape})`] as const),
      ...(gone ? [[props.recipe.table, `${props.recipe.table}, not on the shelf`] as const] : []),
    ]
  }
  if (s !== 'container') return own.choices
  const brands = containers.flatMap((c) => c.brands)
  return recipeKind(props.recipe).containers?.map((c) => [c, brands.find((b) => b.name === c)?.label ?? c])
}
const hintOf = (s: Setting) => (definitions[s] as { readonly hint?: string }).hint

const wrong = ref<Setting | null>(null)
function typed(s: Setting, text: string) {
  const parsed = definitions[s].schema.safeParse(settingValue(s, text))
  wrong.value = parsed.success ? null : s
  if (parsed.success) emit('set', { [s]: parsed.data } as Overrides)
}
</script>

<template>
  <div class="settings">
    <template v-for="s in settings" :key="s">
      <label :for="`set-${s}`" :class="{ over: overridden(s) }">{{ definitions[s].label }}</label>
      <div>
        <div class="row">
          <select
            v-if="choicesOf(s)"
            :id="`set-${s}`"
            class="box"
            :value="JSON.stringify(recipe[s])"
            :title="hintOf(s)"
            @change="emit('set', { [s]: JSON.parse(($event.target as HTMLSelectElement).value) })"
          >
            <option v-for="[v, word] in choicesOf(s)" :key="word" :value="JSON.stringify(v)">{{ word }}</option>
          </select>
          <DraftInput
            v-else
            :id="`set-${s}`"
            class="num box"
            :class="{ wrong: wrong === s }"
            :value="settingText(s, recipe[s])"
            :title="hintOf(s)"
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
        <p v-if="wrong === s" class="small red">{{ hintOf(s) ?? 'this value cannot be read' }}</p>
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
.box {
  width: 100%;
}
.wrong {
  border-color: var(--red);
}
</style>
