<script setup lang="ts">
import { decodedText, mainFile, takenText } from '../../core/deliverable/proof'
import { brandOf } from '../../core/container/registry'
import { summedFile } from '../../core/deliverable/manifest'
import { kindsIn } from '../../core/files/checksums'
import { isRun } from '../../core/files/fileset'
import { programmeRange } from '../../core/lineup/lineup'
import { lapsedText } from '../../core/spec/waiver'
import { measureOf } from '../../core/measure/registry'
import { formatTimecode } from '../../core/time/timecode'
import { worstFirst, worstVerdict } from '../../core/spec/judge'
import { bytesText, clockText, plural } from '../lib/text'
import type { Finished, FinishedSummary } from '../../contract/runs'
import { api } from '../lib/api'
import { useRuns } from '../stores/runs'
import { useProblems } from '../stores/problems'
import { useTimelines } from '../stores/timelines'

const runs = useRuns()
const problems = useProblems()
const timelines = useTimelines()
const route = useRoute()
const packages = computed(() => {
  // trials of an outlet are no part of what it gets, and come behind it all
  const of = (h: FinishedSummary) => `${h.outletId} ${h.trial}`
  const lists = [...new Set(runs.finished.map(of))].map((id) => runs.finished.filter((h) => of(h) === id))
  lists.sort((a, b) => Number(a[0]!.trial) - Number(b[0]!.trial))
  return lists.map((list) => ({
    id: of(list[0]!),
    outletId: list[0]!.outletId,
    name: list[0]!.outlet,
    trial: list[0]!.trial,
    list,
    verdict: worstVerdict(list.map((h) => h.verdict)),
  }))
})
const id = ref((route.query.item as string | undefined) ?? '')
const inHand = computed(() => runs.finished.find((h) => h.id === id.value) ?? packages.value[0]?.list[0] ?? null)
/** The file in hand with its proof; asked for when it is chosen. */
const chosen = shallowRef<Finished | null>(null)
watch(
  () => inHand.value?.id,
  (wanted) => {
    if (!wanted) chosen.value = null
    else
      void problems.attempt(async () => {
        const answer = await api('GET handover/:id', { params: { id: wanted } })
        if (inHand.value?.id === wanted) chosen.value = markRaw(answer)
      })
  },
  { immediate: true },
)
const target = computed(() => {
  const r = chosen.value?.proof.results.find((x) => x.rule.measure === 'loudness')?.rule.expect
  return r && 'target' in r ? r.target : null
})
const sums = computed(() => {
  const { path, proof } = chosen.value!
  const { sums: all } = mainFile(proof)
  return kindsIn(all).map((k) => ({ ...k, sum: all[k.name]!, list: fileName(summedFile(path, k.name)) }))
})
/** The contact sheet beside the file in hand. */
const sheet = computed(() => chosen.value?.proof.files.find((f) => f.role === 'contact sheet') ?? null)
const sheetUrl = computed(() => `/api/handover/files/${chosen.value?.item.id}?beside=contact%20sheet`)
const fileHeight = 26
const fileName = (p: string) => p.split('/').at(-1)!
const db = (v: number | null | undefined, unit: string) =>
  v === null || v === undefined ? '–' : `${v.toFixed(1).replace('-', '−')} ${unit}`
const playable = computed(() => chosen.value && /\.(mp4|wav)$/.test(chosen.value.path))
/** Where the structure of the file in hand is looked at. */
const lookInto = computed(() => ({
  path: '/inside',
  query: { url: `/api/handover/files/${chosen.value?.item.id}`, name: fileName(chosen.value?.path ?? '') },
}))
const copied = ref('')
async function copy(text: string) {
  await navigator.clipboard.writeText(text).catch(() => undefined)
  copied.value = text
}
/** The timeline has moved on since this file was frozen. */
const movedOn = computed(() => {
  const h = chosen.value
  const now = timelines.all
    .find((t) => t.id === h?.item.timeline.id)
    ?.split.regions.find((r) => r.id === h?.item.region.id)
  if (!h || !now) return false
  const { in: first, out, name, handles } = h.item.region
  return now.in !== first + (handles?.before ?? 0) || now.out !== out - (handles?.after ?? 0) || now.name !== name
})
</script>

<template>
  <div class="handover">
    <div v-if="!runs.finished.length" class="station">
      <h1>Nothing to hand over yet</h1>
      <p class="quiet">
        Finished files appear here by outlet, with what was measured in each as written, checksums, and its first and
        last picture beside the timeline’s. <NuxtLink to="/run">Go to the Night run</NuxtLink>
      </p>
    </div>
    <template v-else>
      <nav class="packages" aria-label="Packages">
        <section v-for="p in packages" :key="p.id">
          <div class="row spread">
            <h3 class="row"><VerdictMark :verdict="p.verdict" />{{ p.name }}</h3>
            <span v-if="p.trial" class="small ochre">trials, for nobody</span>
            <NuxtLink v-else class="small" :to="`/report/${p.outletId}`">report</NuxtLink>
          </div>
          <p class="quiet small">
            {{ plural(p.list.length, 'file') }} · {{ bytesText(p.list.reduce((n, h) => n + h.bytes, 0)) }}
          </p>
          <LongRows v-slot="{ item: h }" :items="p.list" :key-of="(h) => h.id" :row-height="fileHeight" list>
            <button class="plain file" :class="{ on: h === inHand }" @click="id = h.id">
              <VerdictMark :verdict="h.verdict" :size="9" /><span class="grow clip num" :title="h.path">{{
                fileName(h.path)
              }}</span>
            </button>
          </LongRows>
        </section>
      </nav>
      <section v-if="chosen" class="proof">
        <div class="row spread head">
          <div class="grow">
            <h1 class="clip">{{ chosen.item.region.name }}</h1>
            <p class="small row">
              <span class="quiet num clip">{{ chosen.item.target.root }}/{{ chosen.path }}</span>
              <NuxtLink v-if="brandOf(chosen.path)" :to="lookInto">look inside</NuxtLink>
            </p>
          </div>
          <VerdictMark :verdict="chosen.proof.verdict" :size="15" word />
        </div>
        <p v-if="movedOn" class="small ochre">The region has changed at the desk since this file was frozen.</p>
        <div v-if="chosen.proof.stills" class="ends">
          <figure
            v-for="e in [
              {
                word: 'First',
                written: chosen.proof.stills.first,
                own: chosen.proof.stills.firstTimeline,
                frame: programmeRange(chosen.item.output, chosen.item.region).in,
                diff: chosen.proof.ends!.first,
                measure: 'first-picture',
              },
              {
                word: 'Last',
                written: chosen.proof.stills.last,
                own: chosen.proof.stills.lastTimeline,
                frame: programmeRange(chosen.item.output, chosen.item.region).out - 1,
                diff: chosen.proof.ends!.last,
                measure: 'last-picture',
              },
            ]"
            :key="e.word"
          >
            <div class="pair">
              <div>
                <img :src="`/api/handover/stills/${e.written}`" :alt="`${e.word} picture as written`" /><span
                  class="small quiet"
                  >as written</span
                >
              </div>
              <div>
                <img :src="`/api/handover/stills/${e.own}`" :alt="`${e.word} picture of the timeline`" /><span
                  class="small quiet"
                  >timeline</span
                >
              </div>
            </div>
            <figcaption class="row spread small">
              <strong>{{ e.word }}</strong><span class="num">{{
                formatTimecode(chosen.item.timeline.start + e.frame, chosen.item.timeline)
              }}</span
              ><span class="row"
                ><VerdictMark
                  :verdict="chosen.proof.results.find((r) => r.rule.measure === e.measure)?.verdict ?? 'unmeasured'"
                  :size="9"
                /><span class="num quiet">difference {{ e.diff.toFixed(2) }}</span></span
              >
            </figcaption>
          </figure>
        </div>
        <p v-if="decodedText(chosen.proof)" class="small quiet">{{ decodedText(chosen.proof) }}</p>
        <p v-if="takenText(chosen.proof)" class="small quiet">{{ takenText(chosen.proof) }}</p>
        <div class="two">
          <div>
            <h3 v-if="chosen.proof.sound">Sound</h3>
            <dl v-if="chosen.proof.sound">
              <dt>Integrated</dt>
              <dd>{{ db(chosen.proof.sound.integrated, 'LUFS') }}</dd>
              <dt>Range</dt>
              <dd>{{ db(chosen.proof.sound.range, 'LU') }}</dd>
              <dt>True peak</dt>
              <dd>{{ db(chosen.proof.sound.truePeak, 'dBTP') }}</dd>
            </dl>
            <LoudnessChart
              v-if="chosen.proof.ribbon.length"
              :key="chosen.item.id"
              :ribbon="chosen.proof.ribbon"
              :target="target"
            />
            <h3 v-if="playable">Look and listen</h3>
            <video
              v-if="chosen.path.endsWith('.mp4')"
              :key="chosen.item.id"
              controls
              preload="metadata"
              :src="`/api/handover/files/${chosen.item.id}`"
            />
            <audio v-else-if="playable" :key="chosen.item.id" controls :src="`/api/handover/files/${chosen.item.id}`" />
            <template v-if="sheet">
              <h3>Contact sheet</h3>
              <a :href="sheetUrl" target="_blank" :title="`${fileName(sheet.path)}, in a window of its own`"
                ><img class="sheet" :src="sheetUrl" :alt="`Contact sheet of ${fileName(chosen.path)}`"
              /></a>
            </template>
            <h3>Checksums</h3>
            <p v-if="isRun(chosen.path)" class="small quiet">
              of the lists of every still’s own, which lie beside them
            </p>
            <p v-for="{ name, label, sum, list } in sums" :key="name" class="num sum">
              <span class="quiet">{{ label }}</span>{{ ' '
              }}<span v-if="isRun(chosen.path)" class="quiet">of {{ list }}</span
              >{{ ' ' }}
              <button class="plain" :title="copied === sum ? 'copied' : 'copy'" @click="copy(sum)">{{ sum }}</button>
            </p>
            <p class="small quiet">
              Written {{ clockText(chosen.finished) }} in run <span class="num">{{ chosen.run }}</span>.
              <a :href="`/api/runs/${chosen.run}/sheet`">Run sheet</a>
            </p>
          </div>
          <div>
            <p v-for="a in chosen.item.accepted ?? []" :key="a.text" class="small accepted">
              <VerdictMark verdict="waived" :size="9" /> {{ a.text }}
              <span class="quiet">accepted at the desk, {{ a.initials }}: {{ a.reason }}</span>
            </p>
            <h3>As written, against {{ chosen.item.spec.name }}</h3>
            <table>
              <tbody>
                <tr v-for="r in worstFirst(chosen.proof.results)" :key="r.rule.id">
                  <td><VerdictMark :verdict="r.verdict" :size="9" /></td>
                  <td>{{ measureOf(r.rule.measure).label }}</td>
                  <td class="num">
                    {{ r.written?.text ?? '–' }}
                    <p v-if="r.waiver" class="small quiet">waived, {{ r.waiver.initials }}: {{ r.waiver.reason }}</p>
                    <p v-if="r.lapsed" class="small red">{{ lapsedText(r.lapsed) }}</p>
                  </td>
                  <td class="quiet small">{{ r.required }}</td>
                </tr>
              </tbody>
            </table>
          </div>
        </div>
      </section>
    </template>
  </div>
</template>

<style scoped>
.sheet {
  width: 100%;
  border: 1px solid var(--line);
}
.handover {
  height: 100%;
  display: flex;
}
.packages {
  width: 300px;
  flex: none;
  border-right: 1px solid var(--line);
  overflow: auto;
  padding: 14px 0;
  background: var(--surface);
}
.packages section {
  padding: 0 14px 16px;
}
.file {
  display: flex;
  align-items: center;
  gap: 7px;
  width: 100%;
  font-size: 12px;
  height: 26px;
  padding: 0 6px;
  border-radius: 2px;
}
.file.on {
  background: var(--raised);
  box-shadow: inset 2px 0 0 var(--crane);
}
.proof {
  flex: 1;
  min-width: 0;
  overflow: auto;
  padding: 16px 22px 24px;
}
.head {
  margin-bottom: 10px;
  gap: 20px;
}
.ends {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 20px;
  margin-bottom: 14px;
}
figure {
  margin: 0;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 4px;
}
.pair img {
  width: 100%;
  display: block;
  background: #000;
}
figcaption {
  border-top: 1px solid var(--line);
  padding-top: 3px;
  margin-top: 2px;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.25fr);
  gap: 26px;
}
h3 {
  margin: 8px 0 6px;
}
dd {
  margin: 0;
  font-family: 'Red Hat Mono Variable', monospace;
  font-size: 13.5px;
}
dl {
  display: grid;
  grid-template-columns: 80px 1fr;
  gap: 2px 8px;
  margin: 0 0 4px;
}
dt {
  font-size: 11.5px;
  color: var(--quiet);
  align-self: center;
}
video {
  width: 100%;
  background: #000;
  display: block;
}
audio {
  width: 100%;
}
.sum {
  font-size: 11px;
  overflow-wrap: anywhere;
  margin-bottom: 4px;
}
table {
  width: 100%;
  table-layout: fixed;
  font-size: 13px;
}
td {
  padding: 3px 6px 3px 0;
  border-bottom: 1px solid var(--line);
  vertical-align: baseline;
}
td:nth-child(1) {
  width: 18px;
}
td:nth-child(2) {
  width: 34%;
}
td:nth-child(3) {
  width: 34%;
}
td.num {
  font-size: 12.5px;
  overflow-wrap: anywhere;
}
</style>
