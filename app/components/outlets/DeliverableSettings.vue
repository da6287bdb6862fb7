<script setup lang="ts">
import type { DeliverableSummary } from '../../../contract/deliverables'
import type { Outlet } from '../../../core/deliverable/outlet'
import { canBeTried } from '../../../core/deliverable/tryout'
import type { Overrides, Recipe } from '../../../core/recipe/recipe'
import { codecLabel } from '../../../core/codec/registry'
import { withOverrides } from '../../../core/recipe/registry'
import type { Setting } from '../../../core/recipe/settings'
import { useDetail } from '../../lib/marks'
import { sizeText } from '../../lib/text'
import { useDeliverables } from '../../stores/deliverables'
import { useEditor } from '../../stores/editor'
import { useShelf } from '../../stores/shelf'
import { useTryouts } from '../../stores/tryouts'

/** The settings of one deliverable, or of its outlet as a whole, and the file that comes of them. */
const props = defineProps<{ outlet: Outlet; deliverable: DeliverableSummary | null }>()
const emit = defineEmits<{ whole: [] }>()
const deliverables = useDeliverables()
const shelf = useShelf()
const desk = useEditor()
const tryouts = useTryouts()
const detail = useDetail(() => props.deliverable)
const recipe = computed((): Recipe => {
  const base = props.outlet.recipe
  return props.deliverable ? withOverrides(base, props.deliverable.overrides) : base
})
const overriddenOf = (d: DeliverableSummary) => Object.keys(d.overrides).length

/** Lays values over this one alone, and takes others back to the outlet's. */
function lay(d: DeliverableSummary, values: Overrides, reset: readonly string[] = []) {
  const keys = [{ timelineId: d.timelineId, regionId: d.regionId, outletId: d.outletId }]
  return deliverables.decide({ action: 'override', keys, values, reset: [...reset] })
}
function set(values: Overrides) {
  if (props.deliverable) void lay(props.deliverable, values)
  else void shelf.save({ ...props.outlet, recipe: { ...props.outlet.recipe, ...values } })
}
function reset(s: Setting) {
  if (props.deliverable) void lay(props.deliverable, {}, [s])
}
/** Makes the values of this one the outlet's own. */
async function forAll() {
  const d = props.deliverable
  if (!d) return
  const own = Object.keys(d.overrides)
  await shelf.save({ ...props.outlet, recipe: { ...props.outlet.recipe, ...d.overrides } })
  await lay(d, {}, own)
}
</script>

<template>
  <aside class="side">
    <div class="set">
      <h3 v-if="deliverable">
        {{ desk.regions.find((r) => r.id === deliverable!.regionId)?.name }} <span class="quiet">for</span>
        {{ outlet.name }}
      </h3>
      <h3 v-else>{{ outlet.name }} <span class="quiet">as a whole</span></h3>
      <p class="small quiet">
        {{
          deliverable
            ? 'A value changed here counts for this one only.'
            : 'A value changed here counts for all its regions.'
        }}
      </p>
      <RecipeSettings
        :recipe="recipe"
        :overrides="deliverable ? deliverable.overrides : undefined"
        :base="outlet.recipe"
        @set="set"
        @reset="reset"
      />
    </div>
    <div v-if="deliverable" class="end">
      <div class="row buttons">
        <Button
          v-if="overriddenOf(deliverable)"
          size="small"
          severity="secondary"
          :label="`Make it ${outlet.name}’s`"
          @click="forAll()"
        /><Button
          v-if="detail && canBeTried(detail.output, recipe)"
          size="small"
          severity="secondary"
          label="Try settings"
          title="Make a stretch of it with two or three settings, and compare them"
          @click="tryouts.begin(deliverable)"
        /><Button size="small" severity="secondary" label="Whole outlet" @click="emit('whole')" />
      </div>
      <div class="stack will">
        <h3>The file</h3>
        <p class="num small">{{ deliverable.path }}</p>
        <template v-if="detail">
          <p class="small">
            <span class="num">{{ sizeText(deliverable) }}</span> ·
            <template v-if="detail.output.video"
              ><span class="num">{{ detail.output.video.width }}×{{ detail.output.video.height }}</span>
              {{ codecLabel(detail.output.video.codec) }}
              <span class="num">{{ detail.output.video.bitDepth }}</span> bit · </template
            >{{
              detail.output.audio
                ? `${detail.output.audio.channels} × ${codecLabel(detail.output.audio.codec)}`
                : 'no sound'
            }}
            · starts <span class="num">{{ detail.output.start.label }}</span>
          </p>
          <ProblemNote v-for="p in detail.output.problems" :key="p.code" :problem="p" />
          <p v-for="n in detail.output.notes" :key="n" class="small quiet">{{ n }}</p>
        </template>
        <NuxtLink
          :to="{
            path: '/checks',
            query: { deliverable: `${deliverable.timelineId}/${deliverable.regionId}/${deliverable.outletId}` },
          }"
          class="small row"
          ><VerdictMark :verdict="deliverable.verdict" word /> see its checks</NuxtLink
        >
      </div>
    </div>
  </aside>
</template>

<style scoped>
.side {
  width: 306px;
  flex: none;
  display: flex;
  flex-direction: column;
  border-left: 1px solid var(--line);
  background: var(--surface);
}
.set {
  flex: 1;
  min-height: 0;
  padding: 14px 16px;
  overflow: auto;
}
/* what comes of the settings stays in sight, however many a recipe has */
.end {
  flex: none;
  max-height: 50%;
  padding: 10px 16px 14px;
  overflow: auto;
  border-top: 1px solid var(--line);
}
.buttons {
  flex-wrap: wrap;
}
.buttons button {
  white-space: nowrap;
}
.side .small {
  margin: 3px 0 9px;
}
.will {
  margin-top: 10px;
  word-break: break-all;
}
.will .small {
  word-break: normal;
  overflow-wrap: anywhere;
  margin: 2px 0;
}
</style>
