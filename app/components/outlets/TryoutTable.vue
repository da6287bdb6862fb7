<script setup lang="ts">
import type { ShownTimeline } from '../../../contract/timelines'
import type { TryoutState } from '../../../contract/tryouts'
import { triedFigures, type TriedFigures } from '../../../core/deliverable/tryout'
import { settings as definitions, type Setting } from '../../../core/recipe/settings'
import { formatTimecode } from '../../../core/time/timecode'
import { bytesText, spanText } from '../../lib/text'
import { tryColours, tryNames, useTryouts } from '../../stores/tryouts'

/** Tries side by side: what came of each, and its settings; those in which they differ stand out. */
const props = defineProps<{ timeline: ShownTimeline }>()
const tryouts = useTryouts()
const figures = computed(() =>
  tryouts.tries.map((t): TriedFigures | null => {
    const pictures = t.state?.made?.pictures
    return pictures ? triedFigures(pictures, props.timeline.model.rate) : null
  }),
)
/** Why some cannot be made, or were not. */
const problems = computed(() =>
  tryouts.tries.flatMap(({ asked, state }, i) =>
    [...(asked?.output.problems ?? []), ...(state?.problem ? [state.problem] : [])].map((problem) => ({
      name: tryNames[i]!,
      problem,
    })),
  ),
)
const differs = (s: Setting) => new Set(tryouts.recipes.map((r) => JSON.stringify(r[s]))).size > 1
function stateText(state: TryoutState['state'] | undefined, id: string | null | undefined): string {
  if (id === null) return 'cannot be made'
  if (state === 'made') return 'made'
  if (state === 'failed') return 'failed'
  return state === 'waiting' ? 'waiting for a worker' : 'not made yet'
}
const decibels = (v: number | null) => (v === null ? 'the same' : `${v.toFixed(1)} dB`)
const megabits = (kbit: number) =>
  kbit >= 10_000 ? `${(kbit / 1000).toFixed(1)} Mbit/s` : `${Math.round(kbit)} kbit/s`
/** Of the whole region, if all of it took as much as the stretch. */
function whole(bytes: number) {
  const region = tryouts.region
  return region ? (bytes / tryouts.frames) * (region.out - region.in) : 0
}
const rows: readonly (readonly [string, string, (i: number, f: TriedFigures) => string])[] = [
  ['Size', 'of the stretch, its sound included', (i) => bytesText(tryouts.tries[i]!.state!.made!.bytes)],
  [
    'Whole region',
    'if all of it takes as much as this stretch',
    (i) => `≈ ${bytesText(whole(tryouts.tries[i]!.state!.made!.bytes))}`,
  ],
  ['Pictures', 'bits a second, on average', (_, f) => megabits(f.kilobits)],
  ['Dearest second', 'the most that one second of pictures takes', (_, f) => megabits(f.dearest)],
  ['Luma', 'peak signal-to-noise ratio, against what was encoded', (_, f) => decibels(f.luma)],
  ['Chroma', 'peak signal-to-noise ratio of Cb and Cr, against what was encoded', (_, f) => decibels(f.chroma)],
  // rounded down: only what is the same may read so
  [
    'Structure',
    'structural similarity of luma; 1 is the same',
    (_, f) => (Math.floor(f.similarity * 1e4) / 1e4).toFixed(4),
  ],
  ['Worst picture', 'the one least like what was encoded', (_, f) => decibels(f.worst.luma)],
  ['Made in', 'on this machine, just now', (i) => spanText(tryouts.tries[i]!.state!.made!.seconds)],
]
const label = (frame: number) => formatTimecode(props.timeline.model.start + tryouts.in + frame, props.timeline.model)
function toWorst(i: number) {
  tryouts.frame = figures.value[i]!.worst.frame
  tryouts.show(i + 1)
}
</script>

<template>
  <div class="table">
    <div class="grid" :style="{ gridTemplateColumns: `112px repeat(${tryouts.tries.length}, minmax(0, 1fr))` }">
      <div class="top row">
        <button
          v-if="tryouts.tries.length < tryNames.length"
          class="plain small quiet"
          title="One more, like the last"
          @click="tryouts.add()"
        >
          + one more
        </button>
      </div>
      <div v-for="(t, i) in tryouts.tries" :key="i" class="top">
        <div class="row spread">
          <button
            class="plain letter"
            :class="{ on: tryouts.shown === i + 1 }"
            :disabled="t.state?.state !== 'made'"
            :title="`Show it (${i + 1})`"
            @click="tryouts.show(i + 1)"
          >
            <span :style="{ color: `var(--${tryColours[i]})` }">{{ tryNames[i] }}</span> <kbd>{{ i + 1 }}</kbd>
          </button>
          <button
            v-if="tryouts.tries.length > 1"
            class="plain quiet small"
            :aria-label="`Leave ${tryNames[i]} out`"
            title="Leave it out"
            @click="tryouts.remove(i)"
          >
            ✕
          </button>
        </div>
        <div v-if="t.state?.state === 'making'" class="state">
          <ProgressBar :value="t.state.share * 100" />
        </div>
        <p v-else class="small quiet state">
          {{ stateText(t.state?.state, t.asked?.id) }}
        </p>
      </div>
      <div v-for="{ name, problem } in problems" :key="`${name} ${problem.message}`" class="wide row">
        <strong>{{ name }}</strong> <ProblemNote class="grow" :problem="problem" />
      </div>
      <template v-for="[name, title, text] in rows" :key="name">
        <div class="quiet" :title="title">{{ name }}</div>
        <div v-for="(f, i) in figures" :key="i" class="num figure">
          <button
            v-if="f && name === 'Worst picture'"
            class="plain"
            :title="`Show ${label(f.worst.frame)}`"
            @click="toWorst(i)"
          >
            {{ text(i, f) }} ›
          </button>
          <template v-else>{{ f ? text(i, f) : '–' }}</template>
        </div>
      </template>
      <div class="quiet">Take it</div>
      <div v-for="(t, i) in tryouts.tries" :key="i" class="take">
        <Button size="small" severity="secondary" label="for this one" @click="tryouts.take(i, false)" />
        <Button size="small" severity="secondary" label="for the outlet" @click="tryouts.take(i, true)" />
      </div>
      <div class="rule" />
      <template v-for="s in tryouts.settings" :key="s">
        <div class="setting" :class="differs(s) ? 'differs' : 'quiet'">{{ definitions[s].label }}</div>
        <RecipeField
          v-for="(r, i) in tryouts.recipes"
          :id="`try-${i}-${s}`"
          :key="i"
          :recipe="r"
          :setting="s"
          :label="`${definitions[s].label} of ${tryNames[i]}`"
          @set="tryouts.set(i, $event)"
        />
      </template>
    </div>
  </div>
</template>

<style scoped>
.table {
  width: 500px;
  flex: none;
  overflow: auto;
  border-right: 1px solid var(--line);
  padding: 0 14px 20px;
}
.grid {
  display: grid;
  gap: 4px 10px;
  align-items: baseline;
  font-size: 13px;
}
.top {
  position: sticky;
  top: 0;
  z-index: 1;
  align-self: stretch;
  min-width: 0;
  padding-top: 8px;
  background: var(--ground);
}
.wide {
  grid-column: 1 / -1;
  align-items: start;
}
.letter {
  font: 600 17px 'Bricolage Grotesque Variable';
}
.letter.on {
  border-bottom: 2px solid var(--crane);
}
.letter:disabled {
  cursor: default;
}
.state {
  min-height: 18px;
}
.figure {
  font-size: 12.5px;
}
.take {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.rule {
  grid-column: 1 / -1;
  border-top: 1px solid var(--line);
  margin: 4px 0;
}
.differs {
  color: var(--crane);
  text-decoration: underline;
  text-underline-offset: 3px;
}
</style>
