<script setup lang="ts">
import { kindsIn } from '../../../core/files/checksums'
import { isRun } from '../../../core/files/fileset'
import { decodedText, mainFile } from '../../../core/deliverable/proof'
import { sectionsTold } from '../../../core/deliverable/report'
import { programmeFrames, programmeRange } from '../../../core/lineup/lineup'
import { lapsedText } from '../../../core/spec/waiver'
import { measureOf } from '../../../core/measure/registry'
import { fileBase } from '../../../core/recipe/output'
import { formatLength, formatTimecode } from '../../../core/time/timecode'
import { bytesText, plural } from '../../lib/text'
import type { Finished } from '../../../contract/runs'
import { api } from '../../lib/api'
import { useProblems } from '../../stores/problems'

/** What an outlet receives, on paper. Proofs are asked for one at a time, and laid out as they come. */
const problems = useProblems()
const route = useRoute()
const list = ref<Finished[]>([])
const left = ref(0)
// a browser names the printed file by it
useHead({ title: () => `Handover to ${list.value[0]?.item.outlet.name ?? 'an outlet'} · Velvet Crane` })
onMounted(() =>
  problems.attempt(async () => {
    const outlet = String(route.params.outlet)
    const wanted = (await api('GET handover')).filter((f) => f.outletId === outlet && !f.trial)
    left.value = wanted.length
    for (const { id } of wanted) {
      list.value.push(markRaw(await api('GET handover/:id', { params: { id } })))
      left.value--
    }
  }),
)
const rangeOf = ({ item }: Finished) => programmeRange(item.output, item.region)
const print = () => window.print()
</script>

<template>
  <div class="station sheet">
    <div class="row spread noprint">
      <NuxtLink to="/handover">‹ Handover</NuxtLink
      ><Button size="small" :disabled="left > 0" label="Print" @click="print()" />
    </div>
    <template v-if="list.length">
      <header>
        <h1>Handover to {{ list[0]!.item.outlet.name }}</h1>
        <p>
          <template v-if="left">{{ list.length }} of </template>{{ plural(list.length + left, 'file') }} ·
          {{ list[0]!.item.spec.name }} ·
          {{ new Date().toLocaleDateString('en-GB', { day: 'numeric', month: 'long', year: 'numeric' }) }}
        </p>
      </header>
      <article v-for="h in list" :key="h.item.id">
        <div class="row spread">
          <h2>{{ h.item.region.name }}</h2>
          <VerdictMark :verdict="h.proof.verdict" word :size="13" />
        </div>
        <p class="num small">{{ h.path }}</p>
        <p class="small">
          {{ h.item.timeline.show }}, {{ h.item.timeline.name }}:
          <span class="num">{{ formatTimecode(h.item.timeline.start + rangeOf(h).in, h.item.timeline) }}</span> to
          <span class="num">{{ formatTimecode(h.item.timeline.start + rangeOf(h).out - 1, h.item.timeline) }}</span>,
          length <span class="num">{{ formatLength(programmeFrames(h.item.output), fileBase(h.item)) }}</span> ·
          {{ bytesText(h.proof.info.size) }}
        </p>
        <ol v-if="h.item.output.sections" class="sections small">
          <li v-for="s in sectionsTold(h.item)" :key="s.start">
            {{ s.what }} from <span class="num">{{ s.start }}</span>, length <span class="num">{{ s.length }}</span>
          </li>
        </ol>
        <div class="cols">
          <div v-if="h.proof.stills" class="pics">
            <img :src="`/api/handover/stills/${h.proof.stills.first}`" alt="First picture" /><img
              :src="`/api/handover/stills/${h.proof.stills.last}`"
              alt="Last picture"
            />
          </div>
          <table>
            <tbody>
              <tr v-for="r in h.proof.results" :key="r.rule.id">
                <td><VerdictMark :verdict="r.verdict" :size="9" /></td>
                <td>{{ measureOf(r.rule.measure).label }}</td>
                <td class="num">{{ r.written?.text ?? '–' }}</td>
                <td class="small">{{ r.required }}</td>
                <td class="small num">{{ r.rule.clause }}</td>
                <td class="small">
                  {{
                    r.waiver ? `waived, ${r.waiver.initials}: ${r.waiver.reason}` : r.lapsed ? lapsedText(r.lapsed) : ''
                  }}
                </td>
              </tr>
            </tbody>
          </table>
        </div>
        <p v-for="a in h.item.accepted ?? []" :key="a.text" class="small">
          Accepted at the desk, {{ a.initials }}: {{ a.text }} ({{ a.reason }})
        </p>
        <p v-if="decodedText(h.proof)" class="small">{{ decodedText(h.proof) }}</p>
        <p v-if="isRun(h.path)" class="small">Sums of the lists of every still’s own, which lie beside them</p>
        <p class="num sum">
          <template v-for="k in kindsIn(mainFile(h.proof).sums)" :key="k.name"
            >{{ k.label }} {{ mainFile(h.proof).sums[k.name] }}<br
          /></template>
        </p>
      </article>
    </template>
    <p v-else class="quiet">Nothing has been finished for this outlet.</p>
  </div>
</template>

<style scoped>
.sheet {
  max-width: 980px;
  margin: 0 auto;
}
header {
  margin: 14px 0 18px;
  border-bottom: 2px solid var(--text);
  padding-bottom: 10px;
}
article {
  border-bottom: 1px solid var(--line);
  padding: 14px 0;
  break-inside: avoid;
}
.cols {
  display: flex;
  gap: 18px;
  margin: 8px 0;
}
.pics {
  width: 170px;
  flex: none;
  display: flex;
  flex-direction: column;
  gap: 5px;
}
.pics img {
  width: 100%;
}
table {
  flex: 1;
  font-size: 12px;
}
td {
  padding: 2px 8px 2px 0;
  vertical-align: baseline;
  border-bottom: 1px solid var(--line);
}
.sum {
  font-size: 10.5px;
  overflow-wrap: anywhere;
}
@media print {
  .noprint {
    display: none;
  }
  .sheet {
    padding: 0;
    overflow: visible;
    height: auto;
    color: #000;
  }
}
td:nth-child(2) {
  width: 20%;
}
td:nth-child(5) {
  width: 24%;
}
.sections {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 18px;
}
</style>
