<script setup lang="ts">
import type { Deliverable, DeliverableSummary } from '../../../contract/deliverables'
import { keyText } from '../../../core/deliverable/outlet'
import { measureOf } from '../../../core/measure/registry'
import { lapsedText } from '../../../core/spec/waiver'
import { overlaps } from '../../../core/time/range'
import { foundIn } from '../../lib/flags'
import { marksOf, useDetail } from '../../lib/marks'
import { useDeliverables } from '../../stores/deliverables'
import { useEditor } from '../../stores/editor'
import { useShelf } from '../../stores/shelf'
import { useTimelines } from '../../stores/timelines'

/** A rule held against one deliverable: what is required, what is forecast, and the ways to mend or accept it. */
const props = defineProps<{ deliverable: DeliverableSummary | null; measure: string | null }>()

type Result = Deliverable['results'][number]

const deliverables = useDeliverables()
const shelf = useShelf()
const timelines = useTimelines()
const desk = useEditor()
const regionName = (id: string) => desk.regions.find((r) => r.id === id)?.name || 'without a name'
const detail = useDetail(() => props.deliverable)
const results = computed(() => detail.value?.results.filter((r) => r.rule.measure === props.measure) ?? [])
const result = computed(
  (): Result | null =>
    results.value.find((r) => r.blocks) ??
    results.value.find((r) => r.verdict === 'caution') ??
    results.value[0] ??
    null,
)
/** The first frame of what is delivered, handles included. */
const first = computed(() => {
  const r = desk.regions.find((x) => x.id === props.deliverable?.regionId)
  return Math.max(0, (r?.in ?? 0) - (detail.value?.recipe.handles ?? 0))
})
const outletOf = (d: DeliverableSummary) => shelf.outlets.find((o) => o.id === d.outletId)
/** Others that fail the same rule and have a fix. */
const alike = computed(() => {
  const rule = result.value?.rule.id
  const outlet = props.deliverable?.outletId
  return deliverables.all.filter((d) => d.outletId === outlet && marksOf(d).some((m) => m.rule.id === rule && m.fix))
})
const keyFor = (d: DeliverableSummary) => ({
  timelineId: d.timelineId,
  regionId: d.regionId,
  outletId: d.outletId,
})

function mend(list: readonly DeliverableSummary[]) {
  return deliverables.decide({ action: 'fix', keys: list.map(keyFor), rule: result.value!.rule.id })
}
const reason = ref('')
const initials = ref(localStorage.getItem('velvet.initials') ?? '')
watch(
  [() => props.deliverable && keyText(props.deliverable), () => props.measure, () => result.value?.lapsed?.at],
  () => (reason.value = result.value?.lapsed?.reason ?? ''),
)
const takeBack = () =>
  deliverables.decide({ action: 'unwaive', keys: [keyFor(props.deliverable!)], rule: result.value!.rule.id })
async function waive() {
  localStorage.setItem('velvet.initials', initials.value)
  if (
    await deliverables.decide({
      action: 'waive',
      keys: [keyFor(props.deliverable!)],
      rule: result.value!.rule.id,
      reason: reason.value,
      initials: initials.value,
    })
  )
    reason.value = ''
}
function see() {
  const r = desk.regions.find((x) => x.id === props.deliverable?.regionId)
  if (!r) return
  const places = measureOf(props.measure!).places?.(foundIn(timelines.current!)) ?? []
  const at = places.find((x) => overlaps(x, r))?.in ?? r.in
  desk.select(r.id)
  desk.go(at)
  void navigateTo('/desk')
}
</script>

<template>
  <aside class="detail">
    <template v-if="result && deliverable">
      <p class="quiet small">{{ regionName(deliverable.regionId) }} for {{ outletOf(deliverable)?.name }}</p>
      <h2 class="row">
        <VerdictMark :verdict="result.verdict" :size="15" /> {{ measureOf(result.rule.measure).label }}
      </h2>
      <p class="why">{{ result.why }}</p>
      <dl>
        <dt>Required</dt>
        <dd>
          {{ result.required }} <span class="quiet small">({{ result.rule.severity }})</span>
        </dd>
        <dt>Forecast</dt>
        <dd :class="{ decides: result.decidedBy === 'forecast' }">
          {{ result.forecast?.text ?? '—'
          }}<span v-if="result.forecast" class="quiet small from">{{ result.forecast.from }}</span>
        </dd>
        <dt>Source</dt>
        <dd :class="{ decides: result.decidedBy === 'source' }">
          {{ result.source?.text ?? '—'
          }}<span v-if="result.source" class="quiet small from">{{ result.source.from }}</span>
        </dd>
        <dt>As written</dt>
        <dd>{{ result.written?.text ?? 'when it is written' }}</dd>
        <dt>Clause</dt>
        <dd class="num small">{{ result.rule.clause }}</dd>
      </dl>
      <SectionList
        v-if="measureOf(result.rule.measure).ofSections && detail?.output.sections && timelines.current"
        :deliverable="detail"
        :timeline="timelines.current"
        :first="first"
      />
      <div v-if="result.fix" class="fix">
        <h3>What to change</h3>
        <p class="small">{{ result.fix.label }}</p>
        <div class="row">
          <Button size="small" label="Change this one" @click="mend([deliverable])" /><Button
            v-if="alike.length > 1"
            size="small"
            severity="secondary"
            :label="`All ${alike.length} like it`"
            @click="mend(alike)"
          />
        </div>
      </div>
      <div v-if="result.waiver" class="fix">
        <h3>Waived</h3>
        <p class="small">{{ result.waiver.initials }}: {{ result.waiver.reason }}</p>
        <Button size="small" severity="secondary" label="Take the waiver back" @click="takeBack()" />
      </div>
      <form v-else-if="result.blocks || result.verdict === 'caution'" class="fix" @submit.prevent="waive">
        <template v-if="result.lapsed">
          <h3>What was accepted is something else</h3>
          <p class="small">{{ lapsedText(result.lapsed) }}</p>
        </template>
        <h3>Accept it as it is{{ result.lapsed ? ' now' : '' }}</h3>
        <InputText v-model="reason" size="small" placeholder="reason" aria-label="Reason" fluid />
        <div class="row">
          <InputText
            v-model="initials"
            size="small"
            placeholder="initials"
            aria-label="Initials"
            style="width: 84px"
          /><Button
            size="small"
            severity="secondary"
            type="submit"
            label="Waive"
            :disabled="!reason.trim() || !initials.trim()"
          /><Button
            v-if="result.lapsed"
            size="small"
            severity="secondary"
            label="Take it back"
            title="Take back what was accepted"
            @click="takeBack()"
          />
        </div>
      </form>
      <div class="row go">
        <button class="plain small" @click="see()">See it at the desk</button
        ><NuxtLink class="small" :to="{ path: '/outlets', query: { outlet: deliverable.outletId } }">Settings</NuxtLink>
      </div>
    </template>
    <p v-else class="quiet">Select a mark to read the rule behind it.</p>
  </aside>
</template>

<style scoped>
.detail {
  width: 340px;
  flex: none;
  border-left: 1px solid var(--line);
  background: var(--surface);
  padding: 16px 18px;
  overflow: auto;
}
.detail h2 {
  gap: 9px;
  margin: 3px 0 7px;
}
.why {
  margin-bottom: 12px;
}
dl {
  display: grid;
  grid-template-columns: 84px 1fr;
  gap: 6px 8px;
  margin: 0 0 14px;
  font-size: 13.5px;
  border-top: 1px solid var(--line);
  padding-top: 11px;
}
dt {
  color: var(--quiet);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
.decides {
  font-weight: 600;
}
.from {
  margin-left: 7px;
  font-weight: 400;
}
.fix {
  border-top: 1px solid var(--line);
  padding: 10px 0 13px;
  display: flex;
  flex-direction: column;
  gap: 7px;
}
.go {
  gap: 18px;
  border-top: 1px solid var(--line);
  padding-top: 10px;
}
.go .plain {
  color: var(--crane);
  text-decoration: underline;
}
</style>
