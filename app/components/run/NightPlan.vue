<script setup lang="ts">
import { isDelivered, type DeliverableSummary } from '../../../contract/deliverables'
import { asksFor } from '../../../core/deliverable/outlet'
import { mostMemory } from '../../../core/job/memory'
import { isLookedAt, type Region } from '../../../core/split/region'
import { becameText } from '../../lib/became'
import { api } from '../../lib/api'
import { gapsOf } from '../../lib/machines'
import { useRoots } from '../../lib/roots'
import { bytesText, listed, plural, sizeText, spanText } from '../../lib/text'
import { useDeliverables } from '../../stores/deliverables'
import { useProblems } from '../../stores/problems'
import { useRuns } from '../../stores/runs'
import { useShelf } from '../../stores/shelf'
import { useTimelines } from '../../stores/timelines'
import { useView } from '../../stores/view'

/** What goes tonight and what stays behind; the run sheet is frozen from here. */
const emit = defineEmits<{ back: [] }>()
const deliverables = useDeliverables()
const runs = useRuns()
const problems = useProblems()
const shelf = useShelf()
const timelines = useTimelines()
const view = useView()
const workers = ref(Math.max(1, Math.min(2, shelf.workers.length || 2)))
const name = ref(`Night of ${new Date().toLocaleDateString('en-GB', { day: 'numeric', month: 'long' })}`)
/** What was taken out of the night by hand, or, of what is delivered, under way or superseded, put into it again. */
const turned = ref(new Set<string>())
const keyOf = (d: { timelineId: string; regionId: string; outletId: string }) =>
  `${d.timelineId}/${d.regionId}/${d.outletId}`
const ready = computed(() => deliverables.all.filter((d) => d.cleared))
const held = computed(() => deliverables.all.filter((d) => !d.cleared))
const isWanted = (d: DeliverableSummary) => !isDelivered(d) && !d.superseded && d.underWay === null
const goes = (d: DeliverableSummary) => isWanted(d) !== turned.value.has(keyOf(d))
const going = computed(() => ready.value.filter(goes))
/** How many have pictures that are there already, coded as they would be; whether those are made all the same. */
const taking = computed(() => going.value.filter((d) => d.earlier).length)
const anew = ref(false)
const takes = (d: DeliverableSummary) => d.earlier !== null && !anew.value
const fromIt = (d: DeliverableSummary) => takes(d) && d.earlier?.id === d.became?.id
/** Those of the night whose pictures are coded with another's: that of the first of them. */
const codedWith = computed(() => {
  const first = new Map<string, DeliverableSummary>()
  const out = new Map<string, DeliverableSummary>()
  for (const d of going.value) {
    if (!d.codes || takes(d)) continue
    const other = first.get(d.codes.sum)
    if (other) out.set(keyOf(d), other)
    else first.set(d.codes.sum, d)
  }
  return out
})
function secondsOf(d: DeliverableSummary): number {
  if (codedWith.value.has(keyOf(d))) return d.codes!.takenIn
  return anew.value && d.earlier ? d.earlier.madeIn : d.seconds
}
const joinedWorkers = computed(() => shelf.machines.reduce((n, m) => n + m.workers, 0))
watch(joinedWorkers, (n) => {
  if (n === 0) workers.value = Math.max(1, workers.value)
})
/** By the paces of this machine: how fast those that joined are is not known before. */
const seconds = computed(
  () => going.value.reduce((n, d) => n + secondsOf(d), 0) / Math.max(1, workers.value || joinedWorkers.value),
)
/** Bytes that the workers need at most, if each has the dearest in hand; of the machine some is for all else. */
const memory = computed(() => workers.value * mostMemory(going.value))
const tight = computed(() => memory.value > shelf.memory * 0.85)
/** Whether its pictures are worked out for it, and not taken from a file. */
const decodes = (d: DeliverableSummary) => !takes(d) && !codedWith.value.has(keyOf(d))
/** With how many others of the night a deliverable's pictures are read at once. */
const readers = computed(() => {
  const out = new Map<string, number>()
  for (const d of going.value) if (d.reads && decodes(d)) out.set(d.reads, (out.get(d.reads) ?? 0) + 1)
  return out
})
const sharedWith = (d: DeliverableSummary) =>
  goes(d) && d.reads && decodes(d) ? (readers.value.get(d.reads) ?? 1) - 1 : 0
/** What does not fit in a line is told whole on hover. */
const tellWhole = (e: MouseEvent) => ((e.target as HTMLElement).title = (e.target as HTMLElement).innerText)
const bytes = computed(() => going.value.reduce((n, d) => n + d.bytes, 0))
const outletRoots = computed(() => [
  ...new Set(deliverables.all.map((d) => shelf.outlets.find((o) => o.id === d.outletId)?.root ?? '')),
])
/** Room of each destination, as text by its root. */
const rooms = computed(() =>
  outletRoots.value.flatMap((root): [string, string][] => {
    const needed = deliverables.all
      .filter((d) => shelf.outlets.find((o) => o.id === d.outletId)?.root === root)
      .reduce((n, d) => n + d.bytes, 0)
    const found = roots.value.find((r) => r.name === root)
    if (!found || found.away) return [[root, 'away']]
    return [[root, `${bytesText(found.free)} free, ${bytesText(needed)} needed by all`]]
  }),
)
const roots = useRoots()
function toggle(k: string) {
  const s = new Set(turned.value)
  if (!s.delete(k)) s.add(k)
  turned.value = s
}
const starting = ref(false)
async function start() {
  starting.value = true
  await problems.attempt(async () => {
    await api('POST runs', {
      body: { name: name.value, workers: workers.value, keys: going.value.map(keyOf), anew: anew.value },
    })
    await runs.load()
    emit('back')
  })
  starting.value = false
}
/** Regions of the night whose ends nobody has looked at as they are, by timeline. */
const unseen = computed(() => {
  const out = new Map<string, number>()
  for (const t of timelines.all) {
    const ids = new Set(going.value.filter((d) => d.timelineId === t.id).map((d) => d.regionId))
    const n = t.split.regions.filter((r) => ids.has(r.id) && !isLookedAt(r)).length
    if (n) out.set(t.id, n)
  }
  return [...out].map(([id, n]) => ({ id, n }))
})
/** How many regions outlets ask for that they are not sent. */
const askedFor = computed(() => {
  const sent = new Set(deliverables.all.map(keyOf))
  return timelines.all.reduce((n, t) => {
    const open = (r: Region) =>
      shelf.outlets.filter(
        (o) => asksFor(o, r) && !sent.has(keyOf({ timelineId: t.id, regionId: r.id, outletId: o.id })),
      )
    return n + t.split.regions.reduce((m, r) => m + open(r).length, 0)
  }, 0)
})
function lookThrough(id: string) {
  timelines.choose(id)
  view.shows = 'edges'
  void navigateTo('/desk')
}
async function openRun(id: string) {
  await problems.attempt(() => runs.open(id))
  emit('back')
}
const rowHeight = 52
const whyHeld = (d: DeliverableSummary) =>
  d.trouble
    .filter((r) => r.blocks)
    .map((r) => r.why)
    .join(' ')
const fileName = (p: string) => p.split('/').at(-1)!
const timelineName = (id: string) => timelines.all.find((t) => t.id === id)?.name ?? ''
</script>

<template>
  <div class="night">
    <section class="list">
      <div class="row spread top">
        <div>
          <h1>Tonight</h1>
          <p class="quiet">
            What is cleared goes; what fails a must-rule, or could not be measured for one, stays behind, and only that.
          </p>
        </div>
      </div>
      <p v-if="!deliverables.all.length" class="quiet">
        No deliverables yet. <NuxtLink to="/outlets">Send regions to outlets</NuxtLink>
      </p>
      <table v-if="ready.length">
        <colgroup>
          <col style="width: 22px" />
          <col style="width: 24px" />
          <col />
          <col style="width: 30%" />
          <col style="width: 84px" />
          <col style="width: 92px" />
        </colgroup>
        <LongRows v-slot="{ item: d }" :items="ready" :key-of="keyOf" :row-height="rowHeight">
          <tr :class="{ out: !goes(d) }" :style="{ height: `${rowHeight}px` }">
            <td>
              <input type="checkbox" :checked="goes(d)" :aria-label="`Run ${d.title}`" @change="toggle(keyOf(d))" />
            </td>
            <td><VerdictMark :verdict="d.verdict" /></td>
            <td>
              <div class="clip" :title="d.title">{{ d.title }}</div>
              <div class="quiet small clip" @mouseenter="tellWhole">
                {{ timelineName(d.timelineId)
                }}<template v-if="d.underWay !== null"> · being made in {{ d.underWay }}</template
                ><template v-else-if="d.became">
                  · {{ becameText(d) }}{{ fromIt(d) ? ', pictures taken from' : '' }}{{ ' ' }}
                  <span class="num" :title="d.became.path">{{ fileName(d.became.path) }}</span></template
                ><template v-if="d.underWay === null && takes(d) && !fromIt(d)">
                  · pictures taken from{{ ' ' }}
                  <span class="num" :title="d.earlier?.path">{{ fileName(d.earlier!.path) }}</span></template
                ><template v-if="d.superseded"> · a newer version of it goes in its place</template
                ><template v-if="codedWith.has(keyOf(d))">
                  · pictures coded once, with {{ codedWith.get(keyOf(d))!.title }}</template
                ><template v-else-if="sharedWith(d)">
                  · pictures read once, with {{ plural(sharedWith(d), 'other') }}</template
                >
              </div>
            </td>
            <td class="num small clip" :title="d.path">{{ fileName(d.path) }}</td>
            <td class="num small right">{{ sizeText(d) }}</td>
            <td class="num small right">{{ spanText(secondsOf(d)) }}</td>
          </tr>
        </LongRows>
      </table>
      <template v-if="held.length">
        <h2 class="held">
          Stays behind <span class="num quiet">{{ held.length }}</span>
        </h2>
        <table>
          <colgroup>
            <col style="width: 22px" />
            <col style="width: 34%" />
            <col />
            <col style="width: 52px" />
          </colgroup>
          <LongRows v-slot="{ item: d }" :items="held" :key-of="keyOf" :row-height="rowHeight">
            <tr :style="{ height: `${rowHeight}px` }">
              <td><VerdictMark :verdict="d.verdict" /></td>
              <td class="clip" :title="d.title">{{ d.title }}</td>
              <td class="small">
                <div class="why" :title="whyHeld(d)">{{ whyHeld(d) }}</div>
              </td>
              <td>
                <NuxtLink
                  class="small"
                  :to="{ path: '/checks', query: { deliverable: keyOf(d) } }"
                  @click="timelines.choose(d.timelineId)"
                  >mend</NuxtLink
                >
              </td>
            </tr>
          </LongRows>
        </table>
      </template>
    </section>
    <aside class="side">
      <h2>The night</h2>
      <dl>
        <dt>Files</dt>
        <dd class="num">{{ going.length }}</dd>
        <dt>Will take about</dt>
        <dd class="num">{{ spanText(seconds) }}</dd>
        <dt>Will need</dt>
        <dd class="num">{{ bytesText(bytes) }}</dd>
        <dt>Memory, up to</dt>
        <dd class="num" :class="{ ochre: tight }">{{ bytesText(memory) }} of {{ bytesText(shelf.memory) }}</dd>
        <template v-for="[r, text] in rooms" :key="r"
          ><dt>Room on {{ r }}</dt>
          <dd class="num">{{ text.split(',')[0] }}</dd></template
        >
      </dl>
      <label class="small quiet">Name of this run<InputText v-model="name" size="small" fluid /></label>
      <label class="small quiet row"
        >Workers
        <input
          v-model.number="workers"
          type="range"
          :min="joinedWorkers ? 0 : 1"
          :max="Math.max(1, shelf.workers.length)"
        />{{ ' ' }} <span class="num">{{ workers }}</span></label
      >
      <p v-if="tight" class="small ochre">
        So many workers may need more memory than this machine has for them: take fewer.
      </p>
      <p v-if="joinedWorkers" class="small quiet">
        {{ plural(joinedWorkers, 'worker') }} of {{ listed(shelf.machines.map((m) => m.name)) }}
        {{ workers ? 'help; the time above is without them' : 'do it all; this machine is left alone' }}.
        <template v-if="!workers && shelf.machines.every((m) => gapsOf(m).length)"
          >What none of them can reach waits for workers of this machine.</template
        >
      </p>
      <label v-if="taking" class="small row">
        <input v-model="anew" type="checkbox" />
        Make the pictures of {{ plural(taking, 'file') }} anew, though they are there in a proven one
      </label>
      <Button
        :label="`Start the night: ${plural(going.length, 'file')}`"
        :disabled="!going.length || starting"
        @click="start()"
      />
      <p v-if="askedFor" class="small">
        Outlets ask for {{ plural(askedFor, 'more region') }} than they are sent.
        <NuxtLink to="/outlets">See which</NuxtLink>
      </p>
      <p v-for="u in unseen" :key="u.id" class="small">
        The ends of {{ plural(u.n, 'region') }} of {{ timelineName(u.id) }} were not looked at.
        <button class="plain link" @click="lookThrough(u.id)">Look through them</button>
      </p>
      <p class="small quiet">The list is frozen when it starts: later changes at the desk do not touch it.</p>
      <Button v-if="runs.current" severity="secondary" size="small" label="Back to the run" @click="emit('back')" />
      <template v-if="runs.all.length"
        ><h3 class="earlier">All runs</h3>
        <p v-for="r in runs.all.slice(0, 40)" :key="r.id" class="row spread small">
          <button class="plain link clip" title="As it was frozen, and what has changed since" @click="openRun(r.id)">
            {{ r.name }}</button><span class="num quiet"
            >{{ r.state === 'done' ? r.created.slice(0, 10) : r.state }} · {{ r.done }}/{{ r.total }}</span
          >
        </p></template
      >
    </aside>
  </div>
</template>

<style scoped src="../../theme/night.css"></style>
<style scoped>
.link {
  color: var(--crane);
  text-decoration: underline;
}
.side {
  width: 300px;
  flex: none;
  border-left: 1px solid var(--line);
  background: var(--surface);
  padding: 20px;
  display: flex;
  flex-direction: column;
  gap: 12px;
  overflow: auto;
}
/* when there is more than fits, it scrolls; nothing is squeezed */
.side > * {
  flex: none;
}
.side .num {
  white-space: nowrap;
}
tr.out {
  opacity: 0.65;
}
/* two lines; the whole of it on hover, and in the Checks */
.why {
  display: -webkit-box;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
  overflow: hidden;
}
.held {
  margin: 22px 0 6px;
}
dl {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 5px 12px;
  margin: 0;
  font-size: 13.5px;
}
dt {
  color: var(--quiet);
}
dd {
  margin: 0;
  text-align: right;
}
.earlier {
  margin-top: 10px;
}
</style>
