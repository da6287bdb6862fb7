<script setup lang="ts">
import type { BodyOf } from '../../../contract/routes'
import type { FrozenSince, RunView } from '../../../contract/runs'
import { partText } from '../../../core/deliverable/identity'
import { api } from '../../lib/api'
import { gapsOf } from '../../lib/machines'
import { bytesText, listed, plural, spanText } from '../../lib/text'
import { useProblems } from '../../stores/problems'
import { useRuns } from '../../stores/runs'
import { useShelf } from '../../stores/shelf'

/** A run as it goes, and as it went: the clock, what is in hand, and what needs somebody. */
const props = defineProps<{ run: RunView }>()
const emit = defineEmits<{ plan: [] }>()
const runs = useRuns()
const problems = useProblems()
const shelf = useShelf()
const act = (body: BodyOf<'POST runs/:id'>) =>
  problems.attempt(async () => {
    await api('POST runs/:id', { params: { id: props.run.id }, body })
    await runs.load()
  })
const item = (id: string, action: 'skip' | 'again') =>
  problems.attempt(async () => {
    await api('POST runs/deliverables/:id', { params: { id }, body: { action } })
    await runs.load()
  })
const joinedWorkers = computed(() => shelf.machines.reduce((n, m) => n + m.workers, 0))
const goesOn = computed(() => {
  if (props.run.workers === 0 && joinedWorkers.value === 0)
    return 'Nothing goes on: no machine takes part any more. Give it workers of this one.'
  if (shelf.workerTrouble && joinedWorkers.value === 0) return 'Nothing goes on: no worker can be started.'
  const some = shelf.machines.every((m) => gapsOf(m).length > 0)
  if (props.run.workers === 0 && some)
    return 'Running. What no machine that takes part can reach waits for workers of this one.'
  return 'Running. You can leave the room.'
})
const failed = computed(() => props.run.items.filter((i) => i.state === 'failed'))
const done = computed(() => props.run.items.filter((i) => i.state === 'done'))
const skipped = computed(() => props.run.items.filter((i) => i.state === 'skipped'))
const outcome = computed(() => {
  const parts = [`${plural(done.value.length, 'file')} done and proven`]
  if (failed.value.length) parts.push(`${failed.value.length} not done`)
  if (skipped.value.length) parts.push(`${skipped.value.length} skipped`)
  return parts.join(', ')
})
/** How each was frozen, and what has changed since; asked for where nothing moves any more. */
const since = shallowRef(new Map<string, FrozenSince>())
const rests = computed(() => props.run.state === 'done' || props.run.state === 'stopped')
watch(
  [() => props.run.id, rests],
  ([id, still]) => {
    since.value = new Map()
    if (still)
      void problems.attempt(async () => {
        const list = await api('GET runs/:id/since', { params: { id } })
        if (props.run.id === id) since.value = new Map(list.map((f) => [f.id, f]))
      })
  },
  { immediate: true },
)
function sinceText({ changed }: FrozenSince): string {
  if (changed === null) return 'not at the stations any more'
  return changed.length ? `${changed.map(partText).join(', ')} changed since` : 'nothing has changed since'
}
const changedSince = (id: string) => since.value.get(id)?.changed?.length !== 0
const again = () =>
  problems.attempt(async () => {
    await api('POST runs/:id/again', { params: { id: props.run.id } })
    runs.opened = null
    await runs.load()
  })
const rowHeight = 52
const fileName = (p: string) => p.split('/').at(-1)!
</script>

<template>
  <div class="night">
    <aside class="dial">
      <NightClock :run="run" :workers="run.workers + joinedWorkers" />
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
        <Button size="small" :severity="rests ? 'primary' : 'secondary'" label="Plan the next" @click="emit('plan')" />
        <Button
          v-if="rests && run.items.length"
          size="small"
          severity="secondary"
          label="Run it again as it was"
          title="From its frozen sheet: files that are there get the next version beside them"
          @click="again()"
        />
        <a class="small" :href="`/api/runs/${run.id}/sheet`">run sheet</a>
      </div>
      <label v-if="run.state !== 'done'" class="row small quiet"
        >Workers
        <input
          type="range"
          :min="joinedWorkers ? 0 : 1"
          :max="Math.max(1, shelf.workers.length)"
          :value="run.workers"
          @change="act({ action: 'workers', workers: Number(($event.target as HTMLInputElement).value) })"
        /><span class="num">{{ run.workers }}</span
        ><span v-if="joinedWorkers"
          >and {{ joinedWorkers }} of {{ listed(shelf.machines.map((m) => m.name)) }}</span
        ></label
      >
      <ProblemNote v-if="run.state === 'running' && shelf.workerTrouble" :problem="shelf.workerTrouble" />
      <div v-for="(l, i) in run.lanes" :key="i" class="lane small">
        <div class="row spread">
          <span class="clip">{{ l.item }}</span><span class="quiet what">{{ l.step }}</span>
        </div>
        <ProgressBar :value="(l.framesDone / Math.max(1, l.framesTotal)) * 100" />
        <div class="row spread quiet">
          <span>{{ l.machine ?? 'this machine' }}</span><span v-if="l.memory !== null" class="num"
            >{{ bytesText(l.memory) }} of memory</span
          >
        </div>
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
                  ? goesOn
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
        <colgroup>
          <col style="width: 22px" />
          <col />
          <col style="width: 220px" />
          <col style="width: 84px" />
        </colgroup>
        <LongRows v-slot="{ item: i }" :items="run.items" :key-of="(i) => i.id" :row-height="rowHeight">
          <tr :class="i.state" :style="{ height: `${rowHeight}px` }">
            <td>
              <VerdictMark v-if="i.state === 'done' && i.verdict" :verdict="i.verdict" /><VerdictMark
                v-else-if="i.state === 'failed'"
                verdict="fail"
              /><VerdictMark v-else verdict="unmeasured" />
            </td>
            <td>
              <div class="clip" :title="i.title">{{ i.title }}</div>
              <div class="quiet small clip">
                <span class="num">{{ fileName(i.path) }}</span><template v-if="since.get(i.id)">
                  · <span class="num">{{ since.get(i.id)!.first }} → {{ since.get(i.id)!.last }}</span></template
                >
              </div>
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
              <div v-if="since.get(i.id)" class="clip" :class="changedSince(i.id) ? 'ochre' : 'quiet'">
                {{ sinceText(since.get(i.id)!) }}
              </div>
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
        </LongRows>
      </table>
    </section>
  </div>
</template>

<style scoped src="../../theme/night.css"></style>
<style scoped>
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
.dial > * {
  flex: none;
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
.lane .what {
  white-space: nowrap;
}
.doing .p-progressbar {
  margin-top: 3px;
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
</style>
