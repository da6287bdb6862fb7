<script setup lang="ts">
import type { Overrides, Recipe } from '../../../core/recipe/recipe'
import { recipeKind } from '../../../core/recipe/registry'
import { settings as definitions, settingText, type Setting } from '../../../core/recipe/settings'

/** The settings a recipe of this kind has. Overridden values are underlined and say what they replace. */
const props = defineProps<{ recipe: Recipe; overrides?: Overrides; base?: Recipe }>()
const emit = defineEmits<{ set: [values: Overrides]; reset: [setting: Setting] }>()
const settings = computed(() => recipeKind(props.recipe).settings)
const overridden = (s: Setting) => props.overrides !== undefined && s in props.overrides
</script>

<template>
  <div class="settings">
    <template v-for="s in settings" :key="s">
      <label :for="`set-${s}`" :class="{ over: overridden(s) }">{{ definitions[s].label }}</label>
      <RecipeField :id="`set-${s}`" :recipe="recipe" :setting="s" @set="emit('set', $event)">
        <template #beside>
          <button
            v-if="overridden(s)"
            class="plain quiet small"
            title="Back to the outlet’s value"
            @click="emit('reset', s)"
          >
            ↺
          </button>
        </template>
        <template #below>
          <p v-if="overridden(s) && base" class="small quiet">instead of {{ settingText(s, base[s]) }}</p>
        </template>
      </RecipeField>
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
</style>
