<script setup lang="ts">
import type { ShownTimeline } from '../../../contract/timelines'
import { shapeOf } from '../../../core/media/aspect'
import { formatTimecode } from '../../../core/time/timecode'
import { shotsOf } from '../../../core/timeline/model'
import { api } from '../../lib/api'
import { showOnDesk } from '../../lib/go'
import { frameUrl } from '../../lib/stills'
import { troublesOf } from '../../lib/strip'
import { bytesText, plural } from '../../lib/text'
import { unseenText } from '../../lib/seeing'
import { useProblems } from '../../stores/problems'
import { useTimelines } from '../../stores/timelines'

/** One timeline that was brought in: its pictures, where it lies, what it is, and what does not match. */
const props = defineProps<{
  timeline: ShownTimeline
  /** How many earlier versions of it there are. */
  older: number
  newest: boolean
  /** Whether its earlier versions are folded away; null when there are none to fold. */
  folded: boolean | null
}>()
const emit = defineEmits<{ fold: []; reveal: []; cuts: [] }>()
const problems = useProblems()
const timelines = useTimelines()
const t = computed(() => props.timeline)

const moveLabel = (shift: number) =>
  `Move its cuts ${plural(Math.abs(shift), 'frame')} ${shift > 0 ? 'later' : 'earlier'}`
const shift = (t: ShownTimeline, by: number) =>
  problems.attempt(() => timelines.patch(t.id, { cutsOffset: t.cutsOffset + by }))
async function remove(t: ShownTimeline) {
  if (!confirm(`Take “${t.name}” and its regions off the list? The media file stays where it is.`)) return
  await problems.attempt(async () => {
    await api('DELETE timelines/:id', { params: { id: t.id } })
    await timelines.load()
  })
}
const bars = (t: ShownTimeline) =>
  troublesOf(t.model, t.sources).map((x) => ({
    ...x,
    left: (x.in / t.model.length) * 100,
    width: Math.max(0.3, ((x.out - x.in) / t.model.length) * 100),
  }))
function contact(t: ShownTimeline): number[] {
  const shots = shotsOf(t.model)
  const n = 9
  if (shots.length <= n)
    return Array.from({ length: n }, (_, i) =>
      Math.min(t.model.length - 1, Math.floor(((i + 0.3) * t.model.length) / n)),
    )
  return Array.from({ length: n }, (_, i) => {
    const s = shots[Math.floor((i * shots.length) / n)]!
    return Math.floor((s.in + s.out) / 2)
  })
}
function toDesk(id: string) {
  timelines.choose(id)
  void navigateTo('/desk')
}
</script>

<template>
  <article class="panel timeline" :class="{ inhand: t.id === timelines.current?.id, older: !newest }">
    <div v-if="!t.info.video.length || unseenText(t)" class="heard" @click="toDesk(t.id)">
      <SoundEnvelope
        :levels="t.analysis.sound?.momentary ?? []"
        :ticks="t.split.markers.map((m) => m.at / t.model.length)"
      />
    </div>
    <div v-else class="contact" @click="toDesk(t.id)">
      <div v-for="f in contact(t)" :key="f" class="stage" :style="{ '--shape': shapeOf(t.info.video[0] ?? null) }">
        <img :src="frameUrl(t, f, 240)" alt="" loading="lazy" />
      </div>
    </div>
    <div
      v-if="t.assembled"
      class="bars"
      :title="bars(t).length ? 'Where media is not as it should be' : 'All media is there'"
    >
      <button
        v-for="(b, i) in bars(t)"
        :key="i"
        :class="{ grave: b.grave }"
        :style="{ left: `${b.left}%`, width: `${b.width}%` }"
        :title="`${formatTimecode(t.model.start + b.in, t.model)}: ${b.word}`"
        :aria-label="`${formatTimecode(t.model.start + b.in, t.model)}: ${b.word}`"
        @click="showOnDesk(t.id, b.in)"
      />
    </div>
    <div class="row spread body">
      <div class="grow">
        <div class="row">
          <DraftInput
            class="bare title"
            :value="t.name"
            aria-label="Name of the timeline"
            @change="(name: string) => problems.attempt(() => timelines.patch(t.id, { name }))"
          />
        </div>
        <p class="quiet small">
          {{ t.show }} ·
          <button class="plain num" title="Show it in storage" @click="emit('reveal')">
            {{ t.file.root }}/{{ t.file.path }}
          </button>
          · {{ bytesText(t.info.size) }}{{ t.assembled ? ' of media' : ''
          }}<template v-if="t.cuts">
            · cuts from <span class="num">{{ t.cuts.path.split('/').at(-1) }}</span></template
          ><template v-if="folded !== null">
            ·
            <button class="plain" :aria-expanded="!folded" @click="emit('fold')">
              {{ folded ? 'show' : 'fold' }} {{ plural(older, 'earlier version') }}
            </button></template
          >
        </p>
      </div>
      <div class="row">
        <Button
          size="small"
          severity="secondary"
          :label="t.assembled || !t.info.video.length ? 'Chapters from a list' : 'Cuts or chapters from a list'"
          @click="emit('cuts')"
        />
        <Button size="small" severity="secondary" label="Remove" @click="remove(t)" />
        <Button size="small" label="To the desk" @click="toDesk(t.id)" />
      </div>
    </div>
    <TimelineFacts :timeline="t" />
    <ChangeList v-if="older > 0" :timeline="t" />
    <div v-if="t.comparison && t.comparison.shift !== null" class="row shifted">
      <VerdictMark verdict="caution" /><span
        >The list is {{ plural(Math.abs(t.comparison.shift), 'frame') }}
        {{ t.comparison.shift > 0 ? 'early' : 'late' }} against the pictures, everywhere.</span
      >
      <Button size="small" :label="moveLabel(t.comparison.shift)" @click="shift(t, t.comparison.shift)" />
    </div>
    <SourceList v-if="t.assembled" :timeline="t" />
    <div v-if="t.mediaProblem || t.problems.length" class="stack notes">
      <ProblemNote v-if="t.mediaProblem" :problem="t.mediaProblem" /><ProblemNote
        v-for="(p, i) in t.problems.slice(0, 5)"
        :key="i"
        :problem="p"
      />
      <p v-if="t.problems.length > 5" class="quiet small">and {{ t.problems.length - 5 }} more</p>
    </div>
  </article>
</template>

<style scoped>
.timeline {
  margin-bottom: 16px;
  overflow: hidden;
}
.timeline.inhand {
  border-color: var(--crane);
}
.timeline.older {
  margin-left: 32px;
}
.contact {
  display: grid;
  grid-template-columns: repeat(9, 1fr);
  gap: 2px;
  cursor: pointer;
  background: #000;
}
.heard {
  height: 84px;
  padding: 6px 16px;
  background: var(--raised);
  cursor: pointer;
}
.older .heard {
  height: 42px;
}
.contact .stage {
  aspect-ratio: 16 / 9;
  background: var(--raised);
}
.older .contact .stage {
  aspect-ratio: 16 / 5;
}
.older .contact img {
  width: 100%;
  height: 100%;
  aspect-ratio: auto;
  object-fit: cover;
}
.bars {
  position: relative;
  height: 9px;
  background: var(--raised);
}
.bars button {
  position: absolute;
  top: 0;
  height: 9px;
  border: 0;
  padding: 0;
  min-width: 3px;
  background: var(--ochre);
  cursor: pointer;
}
.bars button.grave {
  background: var(--red);
}
.bars button:hover {
  filter: brightness(1.25);
}
.body {
  padding: 10px 16px 4px;
  align-items: start;
}
.title {
  font:
    600 18px 'Bricolage Grotesque Variable',
    sans-serif;
}
.shifted {
  padding: 8px 16px;
  border-top: 1px solid var(--line);
  font-size: 13.5px;
}
.notes {
  gap: 7px;
  padding: 0 16px 12px;
}
</style>
