<script setup lang="ts" generic="T">
import { useInView } from '../../lib/inview'

/**
 * Rows of one height of a table, or of a list; only those in view are in the page. Each slot is one such row, and what
 * is typed in it stays with its item, told by `keyOf`, when others come before it.
 */
const props = withDefaults(
  defineProps<{ items: readonly T[]; keyOf: (item: T, index: number) => string; rowHeight: number; list?: boolean }>(),
  { list: false },
)
defineSlots<{ default: (row: { item: T; index: number }) => unknown }>()
const body = ref<HTMLElement | null>(null)
const { first, end } = useInView(body, 'y', props.rowHeight, () => props.items.length)
const row = props.list ? 'div' : 'tr'
</script>

<template>
  <component :is="list ? 'div' : 'tbody'" ref="body">
    <component :is="row" v-if="first" :style="{ height: `${first * rowHeight}px` }" />
    <template v-for="(item, i) in items.slice(first, end)" :key="keyOf(item, first + i)">
      <slot :item="item" :index="first + i" />
    </template>
    <component :is="row" v-if="end < items.length" :style="{ height: `${(items.length - end) * rowHeight}px` }" />
  </component>
</template>
