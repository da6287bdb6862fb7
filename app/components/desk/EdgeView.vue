<script setup lang="ts">
import type { ShownTimeline } from '../../../contract/timelines'
import type { Region } from '../../../core/split/region'
import { shapeOf } from '../../../core/media/aspect'
import { formatTimecode } from '../../../core/time/timecode'
import { frameUrl } from '../../lib/stills'
import { unseenText } from '../../lib/seeing'
import { useEditor } from '../../stores/editor'

/**
 * A region's ends: four stills, before, first, last and after; of sound alone the wave, a twentieth of a second.
 * `elsewhere`: of another timeline than the one on the desk.
 */
const props = withDefaults(defineProps<{ timeline: ShownTimeline; region: Region; elsewhere?: boolean }>(), {
  elsewhere: false,
})
const desk = useEditor()
const unseen = computed(() => unseenText(props.timeline))
const stills = computed(() =>
  [
    { word: 'before', frame: props.region.in - 1, inside: false, edge: 'in' as const },
    { word: 'first', frame: props.region.in, inside: true, edge: 'in' as const },
    { word: 'last', frame: props.region.out - 1, inside: true, edge: 'out' as const },
    { word: 'after', frame: props.region.out, inside: false, edge: 'out' as const },
  ].map((s) => ({
    ...s,
    exists: s.frame >= 0 && s.frame < props.timeline.model.length,
    cut: props.elsewhere || desk.cuts.includes(props.region[s.edge]),
  })),
)
</script>

<template>
  <div v-if="desk.alone" class="waves" aria-label="Edge view">
    <figure v-for="s in stills.filter((x) => x.inside)" :key="s.word" class="inside" @click="desk.go(s.frame)">
      <WaveView :timeline="timeline" :at="region[s.edge]" :span="1 / 20" :region="region" />
      <figcaption>
        <span>{{ s.word }}</span><span class="num">{{
          formatTimecode(timeline.model.start + s.frame, timeline.model).slice(3)
        }}</span>
      </figcaption>
    </figure>
  </div>
  <div v-else class="edges" aria-label="Edge view">
    <template v-for="(s, i) in stills" :key="s.word">
      <div
        v-if="i === 1 || i === 3"
        class="edge"
        :class="{ off: !s.cut }"
        :title="s.cut ? 'The edge is on a cut' : 'The edge is not on a cut'"
      />
      <figure :class="{ inside: s.inside }" @click="s.exists && !elsewhere && desk.go(s.frame)">
        <div v-if="s.exists && !unseen" class="stage" :style="{ '--shape': shapeOf(timeline.info.video[0] ?? null) }">
          <img :src="frameUrl(timeline, s.frame, 320)" :alt="`${s.word}: frame ${s.frame}`" />
        </div>
        <div v-else class="none quiet">{{ s.exists ? 'not decoded' : 'nothing' }}</div>
        <figcaption>
          <span>{{ s.word }}</span><span v-if="s.exists" class="num">{{
            formatTimecode(timeline.model.start + s.frame, timeline.model).slice(3)
          }}</span>
        </figcaption>
      </figure>
      <div v-if="i === 1" class="between" aria-hidden="true">⋯</div>
    </template>
  </div>
</template>

<style scoped>
.edges {
  display: grid;
  grid-template-columns: 1fr 3px 1fr 16px 1fr 3px 1fr;
  gap: 5px;
  align-items: start;
}
.waves {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
}
.waves canvas {
  height: 88px;
}
figure {
  margin: 0;
  cursor: pointer;
  opacity: 0.62;
  min-width: 0;
}
figure.inside {
  opacity: 1;
}
.stage,
.none {
  aspect-ratio: 16 / 9;
}
.none {
  background: var(--surface);
  display: grid;
  place-items: center;
  font-size: 12px;
}
figcaption {
  display: flex;
  justify-content: space-between;
  font-size: 11.5px;
  color: var(--quiet);
  margin-top: 2px;
}
.inside figcaption {
  color: var(--text);
}
.edge {
  background: var(--crane);
  height: calc(100% - 18px);
  border-radius: 1px;
}
.edge.off {
  background: repeating-linear-gradient(var(--ochre) 0 4px, transparent 4px 7px);
}
.between {
  color: var(--quiet);
  text-align: center;
  padding-top: 22px;
}
</style>
