<script setup lang="ts">
import type { FilePath } from '../../../core/media/filepath'
import type { ShownTimeline } from '../../../contract/timelines'
import { isRun } from '../../../core/files/fileset'
import { isMediaFile } from '../../../core/files/kinds'
import { FolderSearch, RotateCw } from '@lucide/vue'
import { isCaution, problemsOf, type LinkState, type MediaFile, type Source } from '../../../core/timeline/link/source'
import type { Verdict } from '../../../core/spec/judge'
import { formatTimecode } from '../../../core/time/timecode'
import { api } from '../../lib/api'
import { showOnDesk } from '../../lib/go'
import { plural } from '../../lib/text'
import { useDeliverables } from '../../stores/deliverables'
import { useProblems } from '../../stores/problems'
import { useTimelines } from '../../stores/timelines'

/** The sources of a timeline: what is linked to what, what is wrong, and the ways to mend it. */
const props = defineProps<{ timeline: ShownTimeline }>()
const deliverables = useDeliverables()
const problems = useProblems()
const timelines = useTimelines()
const picking = ref<{ key: string } | 'folder' | null>(null)
const busy = ref(false)
const all = ref(false)

const words: Record<LinkState, string> = {
  linked: 'linked',
  twice: 'timecode twice',
  ambiguous: 'several fit',
  short: 'too short',
  rate: 'other rate',
  raster: 'other raster',
  'sound-rate': 'other sample rate',
  unheard: 'sound not read',
  channels: 'lacks channels',
  'some-channels': 'not all channels',
  missing: 'missing',
  replaced: 'replaced',
}
const verdictOf = (s: LinkState): Verdict => (s === 'linked' ? 'pass' : isCaution(s) ? 'caution' : 'fail')
const order = (s: Source) =>
  [
    'missing',
    'replaced',
    'short',
    'rate',
    'unheard',
    'channels',
    'sound-rate',
    'raster',
    'twice',
    'some-channels',
    'ambiguous',
    'linked',
  ].indexOf(s.state)
const sorted = computed(() => [...props.timeline.sources].sort((a, b) => order(a) - order(b)))
const troubled = computed(() => sorted.value.filter((s) => s.state !== 'linked'))
const shown = computed(() => (all.value || props.timeline.sources.length <= 8 ? sorted.value : troubled.value))
const title = (s: Source) => s.file?.split(/[\\/]/).at(-1) || s.reel || s.name
/** What stands below it: the clip's name, where it is one. */
const beneath = (s: Source) =>
  s.events.length === 1 && s.name !== title(s) ? s.name : s.reel !== title(s) ? s.reel : ''
const first = (s: Source) => props.timeline.model.events[s.events[0]!]!.record.in
const same = (a: MediaFile | null, b: MediaFile) => a?.root === b.root && a.path === b.path

async function relink(choose: { files?: Record<string, MediaFile>; folder?: FilePath }) {
  busy.value = true
  await problems.attempt(async () => {
    await api('POST timelines/:id/link', { params: { id: props.timeline.id }, body: choose })
    await Promise.all([timelines.load(), deliverables.load()])
  })
  busy.value = false
}
function chosen(place: FilePath) {
  const p = picking.value
  picking.value = null
  if (p === 'folder') void relink({ folder: place })
  else if (p) void relink({ files: { [p.key]: place } })
}
const show = (s: Source) => showOnDesk(props.timeline.id, first(s))
</script>

<template>
  <section class="sources" :aria-label="`Sources of ${timeline.name}`">
    <div class="row spread">
      <h3>
        {{ timeline.sources.filter((s) => s.linked && s.state !== 'missing').length }} of
        {{ plural(timeline.sources.length, 'source') }} linked<span v-if="troubled.length" class="quiet"
          >, {{ troubled.length }} to look at</span
        >
      </h3>
      <div class="row">
        <button v-if="timeline.sources.length > 8" class="plain quiet small" @click="all = !all">
          {{ all ? 'only what needs a look' : 'show all' }}
        </button>
        <Button size="small" severity="secondary" :disabled="busy" @click="picking = 'folder'"
          ><FolderSearch :size="14" /> Look in a folder</Button
        >
        <Button size="small" severity="secondary" :disabled="busy" @click="relink({})"
          ><RotateCw :size="14" /> Look again</Button
        >
      </div>
    </div>
    <table v-if="shown.length">
      <tbody>
        <tr v-for="s in shown" :key="s.key" :class="s.state">
          <td class="state"><VerdictMark :verdict="verdictOf(s.state)" /> {{ words[s.state] }}</td>
          <td class="who">
            <span class="clip">{{ title(s) }}</span><span class="quiet small clip">{{ beneath(s) }}</span>
          </td>
          <td class="num small">
            <button class="plain" title="Show it on the desk" @click="show(s)">
              {{ formatTimecode(timeline.model.start + first(s), timeline.model) }}</button><span class="quiet block">{{
              plural(s.events.length, 'event')
            }}</span>
          </td>
          <td class="what small">
            <template v-for="(p, i) in problemsOf(s)" :key="i">
              <span class="block">{{ p.message }}</span>
              <span v-if="p.fix" class="quiet block">{{ p.fix }}</span>
            </template>
            <span v-if="s.linked" class="num quiet path">{{ s.linked.root }}/{{ s.linked.path }}</span>
          </td>
          <td class="do">
            <select
              v-if="s.candidates.length > 1 || (s.candidates.length && !same(s.linked, s.candidates[0]!))"
              :disabled="busy"
              :aria-label="`Media for ${title(s)}`"
              @change="
                relink({ files: { [s.key]: s.candidates[Number(($event.target as HTMLSelectElement).value)]! } })
              "
            >
              <option v-if="!s.linked" selected disabled>{{ plural(s.candidates.length, 'candidate') }}</option>
              <option
                v-for="(c, i) in s.candidates"
                :key="`${c.root}/${c.path}`"
                :value="i"
                :selected="same(s.linked, c)"
              >
                {{ c.path }}
              </option>
            </select>
            <Button
              size="small"
              severity="secondary"
              label="Choose"
              :aria-label="`Choose media for ${title(s)}`"
              :disabled="busy"
              @click="picking = { key: s.key }"
            />
          </td>
        </tr>
      </tbody>
    </table>
    <FilePicker
      v-if="picking"
      :title="picking === 'folder' ? 'Look for media in a folder' : 'Choose the media'"
      :folders="picking === 'folder'"
      :accept="(name) => picking !== 'folder' && (isMediaFile(name) || isRun(name))"
      @close="picking = null"
      @choose="chosen"
    />
  </section>
</template>

<style scoped>
.sources {
  padding: 10px 16px 12px;
  border-top: 1px solid var(--line);
}
table {
  width: 100%;
  margin-top: 8px;
  table-layout: fixed;
}
td {
  padding: 5px 10px 5px 0;
  border-top: 1px solid var(--line);
  vertical-align: top;
  font-size: 13.5px;
  overflow: hidden;
}
.state {
  width: 148px;
  white-space: nowrap;
}
.state .mark {
  margin-right: 5px;
  vertical-align: -1px;
}
.who {
  width: 170px;
}
.who span {
  display: block;
}
td.num {
  width: 108px;
}
.block {
  display: block;
  font-family: 'Hanken Grotesk Variable', sans-serif;
  letter-spacing: 0;
}
.do {
  width: 250px;
  text-align: right;
  white-space: nowrap;
}
.do select {
  max-width: 160px;
  margin-right: 6px;
  background: var(--raised);
  color: var(--text);
  border: 1px solid var(--line);
  font: inherit;
  font-size: 12.5px;
  padding: 4px;
  border-radius: 2px;
}
.path {
  display: block;
  overflow-wrap: anywhere;
}
</style>
