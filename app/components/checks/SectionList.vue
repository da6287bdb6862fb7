<script setup lang="ts">
import type { Deliverable } from '../../../contract/deliverables'
import type { ShownTimeline } from '../../../contract/timelines'
import { sectionsTold } from '../../../core/deliverable/report'
import { placed } from '../../../core/lineup/lineup'
import { isTimeline } from '../../../core/lineup/section'
import { frameUrl } from '../../lib/stills'

/** What a file is made of, section by section, with the timecode and a picture of each; `first`: of its range. */
const props = defineProps<{ deliverable: Deliverable; timeline: ShownTimeline; first: number }>()

const sections = computed(() => {
  const { output, timelineId, regionId, outletId } = props.deliverable
  // another file has other pictures: what is drawn follows from all of these
  const like = encodeURIComponent(JSON.stringify([props.deliverable.title, output.sections, output.frames]))
  const told = sectionsTold({ output, timeline: props.timeline.model })
  return placed(output).map((s, i) => ({
    ...told[i]!,
    at: s.at,
    picture: !output.video
      ? null
      : isTimeline(s)
        ? frameUrl(props.timeline, props.first + s.from, 256)
        : `/api/deliverables/${timelineId}/${regionId}/${encodeURIComponent(outletId)}/line-up?n=${s.at}&of=${like}`,
  }))
})
</script>

<template>
  <ol>
    <li v-for="s in sections" :key="s.at">
      <img v-if="s.picture" :src="s.picture" :alt="`${s.what} at ${s.start}`" width="128" height="72" />
      <div class="small">
        <div class="num">{{ s.start }}</div>
        <div>{{ s.what }}</div>
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
