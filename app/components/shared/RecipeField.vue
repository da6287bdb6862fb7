<script setup lang="ts">
import { containers } from '../../../core/container/registry'
import type { Overrides, Recipe } from '../../../core/recipe/recipe'
import { recipeKind } from '../../../core/recipe/registry'
import { settings as definitions, settingText, settingValue, type Setting } from '../../../core/recipe/settings'
import { useShelf } from '../../stores/shelf'

/** The field of one setting of a recipe; what cannot be read is said below it. */
const props = defineProps<{ recipe: Recipe; setting: Setting; id: string; label?: string }>()
const emit = defineEmits<{ set: [values: Overrides] }>()
defineSlots<{ beside: () => unknown; below: () => unknown }>()
const shelf = useShelf()
const definition = computed(() => definitions[props.setting])
const hint = computed(() => (definition.value as { readonly hint?: string }).hint)

/** All values it can have, with their words, where they are few. */
const choices = computed((): readonly (readonly [unknown, string])[] | undefined => {
  const { recipe, setting } = props
  const own: { readonly choices?: readonly (readonly [unknown, string])[] } = definition.value
  if (setting === 'table') {
    const gone = recipe.table !== null && !shelf.tables.some((t) => t.id === recipe.table)
    return [
      [null, 'none'],
      ...shelf.tables.map((t) => [t.id, `${t.name} (${t.shape})`] as const),
      ...(gone ? [[recipe.table, `${recipe.table}, not on the shelf`] as const] : []),
    ]
  }
  if (setting !== 'container') return own.choices
  const brands = containers.flatMap((c) => c.brands)
  return recipeKind(recipe).containers?.map((c) => [c, brands.find((b) => b.name === c)?.label ?? c])
})

const wrong = ref(false)
function typed(text: string) {
  const parsed = definition.value.schema.safeParse(settingValue(props.setting, text))
  wrong.value = !parsed.success
  if (parsed.success) emit('set', { [props.setting]: parsed.data } as Overrides)
}
</script>

<template>
  <div>
    <div class="row">
      <select
        v-if="choices"
        :id="id"
        class="box"
        :value="JSON.stringify(recipe[setting])"
        :title="hint"
        :aria-label="label"
        @change="emit('set', { [setting]: JSON.parse(($event.target as HTMLSelectElement).value) })"
      >
        <option v-for="[v, word] in choices" :key="word" :value="JSON.stringify(v)">{{ word }}</option>
      </select>
      <DraftInput
        v-else
        :id="id"
        class="num box"
        :class="{ wrong }"
        :value="settingText(setting, recipe[setting])"
        :title="hint"
        :aria-label="label"
        spellcheck="false"
        @change="typed"
      />
      <slot name="beside" />
    </div>
    <p v-if="wrong" class="small red">{{ hint ?? 'this value cannot be read' }}</p>
    <slot v-else name="below" />
  </div>
</template>

<style scoped>
.box {
  width: 100%;
  min-width: 0;
}
.wrong {
  border-color: var(--red);
}
</style>
