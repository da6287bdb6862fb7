<script setup lang="ts">
import type { Deliverable } from '../../contract/deliverables'
import { isMade, placed } from '../../core/lineup/lineup'
import { sectionKind } from '../../core/lineup/registry'
import { nominalRate } from '../../core/time/rate'
import { formatTimecode, type TimeBase } from '../../core/time/timecode'

/** What a file is made of, section by section, with the timecode and a picture of each; `first`: of its programme. */
const props = defineProps<{ deliverable: Deliverable; first: string; base: TimeBase }>()

const sections = computed(() => {
  const { output, timelineId, regionId, outletId } = props.deliverable
  // another file has other pictures: what is drawn follows from all of these
  const like = encodeURIComponent(JSON.stringify([props.deliverable.title, output.sections, output.frames]))
  return placed(output).map((s) => ({
    at: s.at,
    label: isMade(s) ? sectionKind(s.kind).label : 'programme',
    start: formatTimecode(output.start.frames + s.at, props.base),
    length: isMade(s)
      ? `${Number((s.frames / nominalRate(props.base.rate)).toFixed(2))} s`
      : formatTimecode(s.frames, props.base),
    picture: isMade(s)
      ? `/api/deliverables/${timelineId}/${regionId}/${encodeURIComponent(outletId)}/line-up?n=${s.at}&of=${like}`
      : props.first,
  }))
})
</script>

<template>
  <ol>
    <li v-for="s in sections" :key="s.at">
      <img :src="s.picture" :alt="`${s.label} at ${s.start}`" width="128" height="72" />
      <div class="small">
        <div class="num">{{ s.start }}</div>
        <div>{{ s.label }}</div>
        <div class="num quiet">{{ s.length }}</div>
      </div>
    </li>
  </ol>
</template>

<style scoped>
ol {
  list-style: none;
  margin: 0 0 14px;
  padding: 0;
  display: flex;
  flex-direction: column;
  gap: 6px;
}
li {
  display: flex;
  gap: 12px;
  align-items: center;
}
img {
  flex: none;
  width: 128px;
  height: 72px;
  background: #000;
  object-fit: contain;
}
</style>
