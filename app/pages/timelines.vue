<script setup lang="ts">
import { Eye, FolderOpen, Upload } from '@lucide/vue'
import type { WatchState } from '../../contract/files'
import type { ShownTimeline } from '../../contract/timelines'
import { isRun } from '../../core/files/fileset'
import { isChapterFile, isMediaFile, isTimelineFile, timelineEndings } from '../../core/files/kinds'
import type { FilePath } from '../../core/media/filepath'
import { api } from '../lib/api'
import { bringIn, useArrivals } from '../lib/arrivals'
import { useProblems } from '../stores/problems'
import { useTimelines } from '../stores/timelines'

const problems = useProblems()
const timelines = useTimelines()
const { coming, take } = useArrivals()
const over = ref(false)
const picking = ref<
  null | { for: 'media' } | { for: 'watch' } | { for: 'cuts'; id: string } | { for: 'reveal'; at: FilePath }
>(null)
const field = ref<HTMLInputElement>()
const watching = ref<WatchState | null>(null)
const loadWatch = () =>
  problems.attempt(async () => {
    watching.value = await api('GET watch')
  })
onMounted(loadWatch)
watch(
  () => timelines.all,
  () => void loadWatch(),
)
const setWatch = (folder: FilePath | null) =>
  problems.attempt(async () => {
    watching.value = await api('PUT watch', { body: { folder } })
  })
function chosen(place: FilePath) {
  const p = picking.value
  picking.value = null
  void problems.attempt(async () => {
    if (p?.for === 'cuts') return timelines.patch(p.id, { cuts: place })
    if (p?.for === 'watch') return setWatch(place)
    if (p?.for === 'reveal' || isTimelineFile(place.path)) return bringIn(place)
    // a list of the same name beside the media comes along
    const folder = place.path.split('/').slice(0, -1).join('/')
    const { entries } = await api('GET files', { query: { root: place.root, path: folder } })
    const list = entries.find(
      (e) =>
        isTimelineFile(e.name) &&
        e.path.replace(/\.[^.]+$/, '').toLowerCase() === place.path.replace(/\.[^.]+$/, '').toLowerCase(),
    )
    return bringIn(place, list && { root: place.root, path: list.path })
  })
}
/** Versions of one timeline together, the newest on top; what was brought in last comes first. */
const families = computed(() => {
  const groups = new Map<string, ShownTimeline[]>()
  for (const t of [...timelines.all].reverse()) {
    const key = `${t.show}\0${versionStem(t.name)}`
    groups.set(key, [...(groups.get(key) ?? []), t])
  }
  return [...groups.values()]
})
const versionStem = (name: string) => name.replace(/[ _-]*v\d{1,4}$/i, '')
const opened = ref<string[]>([])
const shown = computed(() =>
  families.value
    .flatMap((f) => f.map((t, i) => ({ t, older: f.length - 1 - i, newest: i === 0, key: f[0]!.id, count: f.length })))
    .filter((x) => x.newest || opened.value.includes(x.key)),
)
const toggle = (key: string) => {
  opened.value = opened.value.includes(key) ? opened.value.filter((k) => k !== key) : [...opened.value, key]
}
function drop(e: DragEvent) {
  over.value = false
  void take([...(e.dataTransfer?.files ?? [])])
}
/** What can be chosen in the picker, by what it is for. */
const accepts = {
  media: (name: string) => isMediaFile(name) || isTimelineFile(name) || isRun(name),
  cuts: (name: string) => isTimelineFile(name) || isChapterFile(name),
  watch: () => false,
  reveal: (name: string) => isMediaFile(name) || isTimelineFile(name) || isRun(name),
}
</script>

<template>
  <div class="station" @dragover.prevent="over = true" @dragleave.self="over = false" @drop.prevent="drop">
    <div class="row spread top">
      <div>
        <h1>Timelines</h1>
        <p class="quiet">What was brought in, from where, linked to what, and what does not match.</p>
      </div>
      <div class="row">
        <Button severity="secondary" @click="field?.click()"><Upload :size="15" /> Bring in files</Button
        ><Button @click="picking = { for: 'media' }"><FolderOpen :size="15" /> From storage</Button>
      </div>
    </div>
    <input
      ref="field"
      type="file"
      multiple
      hidden
      :accept="[...timelineEndings(), 'video/*', 'audio/*'].join()"
      @change="take([...(field?.files ?? [])])"
    />
    <p class="watch small">
      <Eye :size="14" />
      <template v-if="watching?.folder"
        >Watching <span class="num">{{ watching.folder.root }}/{{ watching.folder.path }}</span
        >: what arrives there is brought in. <button class="plain" @click="setWatch(null)">Stop</button></template
      >
      <template v-else
        ><span class="quiet">No folder is watched.</span>{{ ' ' }}
        <button class="plain" @click="picking = { for: 'watch' }">Watch one</button></template
      >
    </p>
    <div v-if="watching?.problems.length" class="stack notes">
      <ProblemNote v-for="p in watching.problems" :key="p.file" :problem="p.problem" />
    </div>

    <div v-for="c in coming" :key="c.name" class="panel coming">
      <div class="row spread">
        <span>{{ c.name }}</span><span v-if="c.state === 'coming'" class="num quiet"
          >{{ Math.round(c.share * 100) }} %</span
        ><span v-else-if="c.state === 'reading'" class="quiet">reading it, looking for its media</span>
        <button
          class="plain quiet"
          @click="c.state === 'coming' ? c.abort() : (coming = coming.filter((x) => x !== c))"
        >
          {{ c.state === 'coming' ? 'stop' : '✕' }}
        </button>
      </div>
      <ProgressBar v-if="c.state !== 'failed'" :value="c.share * 100" />
      <ProblemNote v-if="c.problem" :problem="c.problem" />
    </div>

    <TimelineCard
      v-for="{ t, older, newest, key, count } in shown"
      :key="t.id"
      :timeline="t"
      :older="older"
      :newest="newest"
      :folded="newest && count > 1 ? !opened.includes(key) : null"
      @fold="toggle(key)"
      @reveal="picking = { for: 'reveal', at: t.file }"
      @cuts="picking = { for: 'cuts', id: t.id }"
    />
    <div class="drop" :class="{ over, small: timelines.all.length > 0 && !over }">
      <h2>{{ timelines.all.length ? 'Drop more timelines here' : 'Drop an edited timeline here' }}</h2>
      <p class="quiet">
        An edit decision list, OpenTimelineIO, a composition playlist or CSV: its media is looked for below the storage
        roots. Or one flattened MP4 or MOV file, alone or with the list of its cuts; or sound alone.
      </p>
    </div>
    <FilePicker
      v-if="picking"
      :title="
        {
          media: 'Bring in a timeline',
          watch: 'Watch a folder',
          cuts: 'Cuts or chapters from a list',
          reveal: 'Where it lies',
        }[picking.for]
      "
      :folders="picking.for === 'watch'"
      :at="picking.for === 'reveal' ? picking.at : undefined"
      :accept="accepts[picking.for]"
      @close="picking = null"
      @choose="chosen"
    />
  </div>
</template>

<style scoped>
.top {
  margin-bottom: 6px;
}
.watch {
  display: flex;
  align-items: center;
  gap: 7px;
  margin-bottom: 14px;
}
.watch button {
  color: var(--crane);
}
.drop {
  border: 1.5px dashed var(--line);
  padding: 44px 30px;
  text-align: center;
  margin-bottom: 16px;
  border-radius: 3px;
}
.drop.over {
  border-color: var(--crane);
  background: var(--surface);
}
.drop.small {
  padding: 20px 30px;
}
.drop.small h2 {
  font-size: 15px;
}
.drop p {
  max-width: 560px;
  margin: 8px auto 0;
}
.coming {
  padding: 8px 14px;
  margin-bottom: 10px;
  display: flex;
  flex-direction: column;
  gap: 6px;
}
.notes {
  gap: 7px;
  padding: 0 16px 12px;
}
</style>
