<script setup lang="ts">
import type { BodyOf } from '../../contract/routes'
import { useRoots } from '../lib/roots'
import type { DeliverableSummary } from '../../contract/deliverables'
import { api } from '../lib/api'
import { bytesText, plural, spanText } from '../lib/text'
import { useDeliverables } from '../stores/deliverables'
import { useRuns } from '../stores/runs'
import { useProblems } from '../stores/problems'
import { useShelf } from '../stores/shelf'
import { useTimelines } from '../stores/timelines'

const deliverables = useDeliverables()
const runs = useRuns()
const problems = useProblems()
const shelf = useShelf()
const timelines = useTimelines()
const workers = ref(Math.max(1, Math.min(2, shelf.workers.length || 2)))
const name = ref(`Night of ${new Date().toLocaleDateString('en-GB', { day: 'numeric', month: 'long' })}`)
/** What was taken out of the night by hand, or, of what is delivered already, put into it again. */
const turned = ref(new Set<string>())
const planning = ref(!runs.current || runs.current.state === 'done')
watch(
  () => runs.current?.state,
  (s, was) => {
    if (s === 'running' && was !== 'running') planning.value = false
  },
)
const keyOf = (d: { timelineId: string; regionId: string; outletId: string }) =>
  `${d.timelineId}/${d.regionId}/${d.outletId}`
const ready = computed(() => deliverables.all.filter((d) => d.cleared))
const held = computed(() => deliverables.all.filter((d) => !d.cleared))
const goes = (d: DeliverableSummary) => (d.delivered === null) !== turned.value.has(keyOf(d))
const going = computed(() => ready.value.filter(goes))
const seconds = computed(() => going.value.reduce((n, d) => n + d.seconds, 0) / workers.value)
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
    await api('POST runs', { body: { name: name.value, workers: workers.value, keys: going.value.map(keyOf) } })
    await runs.load()
    planning.value = false
  })
  starting.value = false
}
const act = (body: BodyOf<'POST runs/:id'>) =>
  problems.attempt(async () => {
    await api('POST runs/:id', { params: { id: runs.current!.id }, body })
    await runs.load()
  })
const item = (id: string, action: 'skip' | 'again') =>
  problems.attempt(async () => {
    await api('POST runs/deliverables/:id', { params: { id }, body: { action } })
    await runs.load()
  })
const run = computed(() => runs.current)
const failed = computed(() => run.value?.items.filter((i) => i.state === 'failed') ?? [])
const done = computed(() => run.value?.items.filter((i) => i.state === 'done') ?? [])
const skipped = computed(() => run.value?.items.filter((i) => i.state === 'skipped') ?? [])
const outcome = computed(() => {
  const parts = [`${plural(done.value.length, 'file')} done and proven`]
  if (failed.value.length) parts.push(`${failed.value.length} not done`)
  if (skipped.value.length) parts.push(`${skipped.value.length} skipped`)
  return parts.join(', ')
})
const fileName = (p: string) => p.split('/').at(-1)!
const timelineName = (id: string) => timelines.all.find((t) => t.id === id)?.name ?? ''
</script>

<template>
  <div class="night">
    <template v-if="planning || !run">
      <section class="list">
        <div class="row spread top">
          <div>
            <h1>Tonight</h1>
            <p class="quiet">
              What is cleared goes; what fails a must-rule, or could not be measured for one, stays behind, and only
              that.
            </p>
          </div>
        </div>
        <p v-if="!deliverables.all.length" class="quiet">
          No deliverables yet. <NuxtLink to="/outlets">Send regions to outlets</NuxtLink>
        </p>
        <table v-if="ready.length">
          <tbody>
            <tr v-for="d in ready" :key="keyOf(d)" :class="{ out: !goes(d) }">
              <td>
                <input type="checkbox" :checked="goes(d)" :aria-label="`Run ${d.title}`" @change="toggle(keyOf(d))" />
              </td>
              <td><VerdictMark :verdict="d.verdict" /></td>
              <td>
                {{ d.title }}
                <div class="quiet small">
                  {{ timelineName(d.timelineId)
                  }}<template v-if="d.delivered">
                    · delivered as <span class="num">{{ fileName(d.delivered) }}</span>, unchanged since</template
                  >
                </div>
              </td>
              <td class="num small path">{{ fileName(d.path) }}</td>
              <td class="num small right">{{ bytesText(d.bytes) }}</td>
              <td class="num small right">{{ spanText(d.seconds) }}</td>
            </tr>
          </tbody>
        </table>
        <template v-if="held.length">
          <h2 class="held">
            Stays behind <span class="num quiet">{{ held.length }}</span>
          </h2>
          <table>
            <tbody>
              <tr v-for="d in held" :key="keyOf(d)">
                <td><VerdictMark :verdict="d.verdict" /></td>
                <td class="title">{{ d.title }}</td>
                <td class="small">
                  {{
                    d.trouble
                      .filter((r) => r.blocks)
                      .map((r) => r.why)
                      .join(' ')
                  }}
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
            </tbody>
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
          <template v-for="[r, text] in rooms" :key="r"
            ><dt>Room on {{ r }}</dt>
            <dd class="num">{{ text.split(',')[0] }}</dd></template
          >
        </dl>
        <label class="small quiet">Name of this run<InputText v-model="name" size="small" fluid /></label>
        <label class="small quiet row"
          >Workers <input v-model.number="workers" type="range" min="1" :max="Math.max(1, shelf.workers.length)" />{{
            ' '
          }}
          <span class="num">{{ workers }}</span></label
        >
        <Button
          :label="`Start the night: ${plural(going.length, 'file')}`"
          :disabled="!going.length || starting"
          @click="start()"
        />
        <p class="small quiet">The list is frozen when it starts: later changes at the desk do not touch it.</p>
        <Button v-if="run" severity="secondary" size="small" label="Back to the last run" @click="planning = false" />
        <template v-if="runs.all.length"
          ><h3 class="earlier">Earlier runs</h3>
          <p v-for="r in runs.all.slice(0, 8)" :key="r.id" class="row spread small">
            <a :href="`/api/runs/${r.id}/sheet`" title="Run sheet">{{ r.name }}</a><span class="num quiet"
              >{{ r.done }}/{{ r.total }}</span
            >
          </p></template
        >
      </aside>
    </template>
    <template v-else>
      <aside class="dial">
        <NightClock :run="run" />
        <div class="figures">
          <div>
            <span class="num">{{
              run.secondsLeft !== null && run.state === 'running' ? spanText(run.secondsLeft) : '–'
            }}</span><span class="quiet small">left</span>
          </div>
          <div>
            <span class="num">{{ run.framesPerSecond ? run.framesPerSecond.toFixed(1) : '–' }}</span><span
              class="quiet small"
              >frames a second</span
            >
          </div>
          <div>
            <span class="num">{{ done.length }}/{{ run.items.length }}</span
            ><span class="quiet small">files</span>
          </div>
        </div>
        <div class="row controls">
          <Button
            v-if="run.state === 'running'"
            size="small"
            severity="secondary"
            label="Pause"
            @click="act({ action: 'pause' })"
          />
          <Button
            v-if="run.state === 'paused' || run.state === 'stopped'"
            size="small"
            label="Go on"
            @click="act({ action: 'resume' })"
          />
          <Button
            v-if="run.state === 'running' || run.state === 'paused'"
            size="small"
            severity="danger"
            label="Stop"
            @click="act({ action: 'stop' })"
          />
          <Button
            v-if="run.state === 'done' || run.state === 'stopped'"
            size="small"
            label="Plan the next"
            @click="planning = true"
          />
          <a class="small" :href="`/api/runs/${run.id}/sheet`">run sheet</a>
        </div>
        <label v-if="run.state !== 'done'" class="row small quiet"
          >Workers
          <input
            type="range"
            min="1"
            :max="Math.max(1, shelf.workers.length)"
            :value="run.workers"
            @change="act({ action: 'workers', workers: Number(($event.target as HTMLInputElement).value) })"
          /><span class="num">{{ run.workers }}</span></label
        >
        <ProblemNote v-if="run.state === 'running' && shelf.workerTrouble" :problem="shelf.workerTrouble" />
        <div v-for="(l, i) in run.lanes" :key="i" class="lane small">
          <div class="row spread">
            <span class="clip">{{ l.item }}</span><span class="quiet">{{ l.step }}</span>
          </div>
          <ProgressBar :value="(l.framesDone / Math.max(1, l.framesTotal)) * 100" />
        </div>
      </aside>
      <section class="list">
        <div class="row spread top">
          <div>
            <h1>{{ run.state === 'done' ? 'Morning sheet' : run.name }}</h1>
            <p class="quiet">
              {{
                run.state === 'done'
                  ? `${run.name}: ${outcome}.`
                  : run.state === 'running'
                    ? 'Running. You can leave the room.'
                    : run.state === 'paused'
                      ? 'Paused: what was in hand is finished, nothing new begins.'
                      : 'Stopped. It goes on from the last finished segment.'
              }}
            </p>
          </div>
        </div>
        <div v-if="failed.length" class="needs panel">
          <h3>Needs you</h3>
          <div v-for="i in failed" :key="i.id" class="row need">
            <VerdictMark verdict="fail" />
            <div class="grow">
              <strong>{{ i.title }}</strong><ProblemNote v-if="i.problem" :problem="i.problem" />
            </div>
            <Button size="small" severity="secondary" label="Run it again" @click="item(i.id, 'again')" />
          </div>
        </div>
        <table>
          <tbody>
            <tr v-for="i in run.items" :key="i.id" :class="i.state">
              <td>
                <VerdictMark v-if="i.state === 'done' && i.verdict" :verdict="i.verdict" /><VerdictMark
                  v-else-if="i.state === 'failed'"
                  verdict="fail"
                /><VerdictMark v-else verdict="unmeasured" />
              </td>
              <td>
                {{ i.title }}
                <div class="num quiet small clip">{{ fileName(i.path) }}</div>
              </td>
              <td class="doing small">
                <template v-if="i.state === 'running'"
                  >{{ i.doing }}<ProgressBar :value="(i.framesDone / Math.max(1, i.framesTotal)) * 100" /></template
                ><template v-else-if="i.state === 'done'"
                  ><NuxtLink :to="{ path: '/handover', query: { item: i.id } }">proven</NuxtLink>{{ ' ' }}
                  <span class="num quiet">{{
                    spanText((Date.parse(i.finished!) - Date.parse(i.started!)) / 1000)
                  }}</span></template
                ><template v-else>{{ i.doing }}</template>
              </td>
              <td class="right">
                <Button
                  v-if="i.state === 'waiting' || i.state === 'running'"
                  size="small"
                  severity="secondary"
                  label="Skip"
                  @click="item(i.id, 'skip')"
                /><Button
                  v-else-if="i.state === 'skipped'"
                  size="small"
                  severity="secondary"
                  label="Run it"
                  @click="item(i.id, 'again')"
                />
              </td>
            </tr>
          </tbody>
        </table>
      </section>
    </template>
  </div>
</template>

<style scoped>
.night {
  height: 100%;
  display: flex;
}
.list {
  flex: 1;
  min-width: 0;
  overflow: auto;
  padding: 20px 24px;
}
.top {
  margin-bottom: 14px;
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
.dial {
  width: 400px;
  flex: none;
  border-right: 1px solid var(--line);
  padding: 18px 20px;
  display: flex;
  flex-direction: column;
  gap: 12px;
  overflow: auto;
}
.figures {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
}
.figures div {
  display: flex;
  flex-direction: column;
}
.figures .num {
  font-size: 18px;
  font-weight: 600;
}
.controls {
  gap: 8px;
}
.lane {
  display: flex;
  flex-direction: column;
  gap: 4px;
}
table {
  width: 100%;
  font-size: 13.5px;
}
td {
  padding: 6px 8px 6px 0;
  border-bottom: 1px solid var(--line);
  vertical-align: middle;
}
td:first-child {
  width: 22px;
}
tr.out {
  opacity: 0.65;
}
.right {
  text-align: right;
  white-space: nowrap;
}
.path {
  overflow-wrap: anywhere;
}
.title {
  white-space: nowrap;
  padding-right: 16px;
}
.doing {
  width: 210px;
}
.doing .p-progressbar {
  margin-top: 3px;
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
.needs {
  padding: 10px 14px;
  margin-bottom: 14px;
  border-color: var(--red);
}
.need {
  align-items: start;
  padding: 6px 0;
}
input[type='range'],
input[type='checkbox'] {
  accent-color: var(--crane);
}
</style>
