<script setup lang="ts" generic="T">
import { useInView } from '../lib/inview'

/** Rows of one height of a table, or of a list; only those in view are in the page. Each slot is one such row. */
const props = withDefaults(defineProps<{ items: readonly T[]; rowHeight: number; list?: boolean }>(), { list: false })
defineSlots<{ default: (row: { item: T; index: number }) => unknown }>()
const body = ref<HTMLElement | null>(null)
const { first, end } = useInView(body, 'y', props.rowHeight, () => props.items.length)
const row = props.list ? 'div' : 'tr'
</script>

<template>
  <component :is="list ? 'div' : 'tbody'" ref="body">
    <component :is="row" v-if="first" :style="{ height: `${first * rowHeight}px` }" />
    <slot v-for="(item, i) in items.slice(first, end)" :item="item" :index="first + i" />
    <component :is="row" v-if="end < items.length" :style="{ height: `${(items.length - end) * rowHeight}px` }" />
  </component>
</template>
