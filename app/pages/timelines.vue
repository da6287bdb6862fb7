<script setup lang="ts">
import type { FilePath } from '../../core/media/filepath'
import type { ShownTimeline } from '../../contract/timelines'
import { Eye, FolderOpen, Upload } from 'lucide-vue-next'
import { isChapterFile, isPictureFile, isStillRun, isTimelineFile, timelineEndings } from '../../core/files/kinds'
import { sourceChannels } from '../../core/sound/layout'
import { rateLabel, rates, sameRate } from '../../core/time/rate'
import { formatLength, formatTimecode } from '../../core/time/timecode'
import { shotsOf } from '../../core/timeline/model'
import { ProblemError } from '../../core/problem'
import { api, upload } from '../lib/api'
import { showOnDesk } from '../lib/go'
import { frameUrl } from '../lib/stills'
import { bytesText, plural, spanText } from '../lib/text'
import { troublesOf } from '../lib/strip'
import type { WatchState } from '../../contract/files'
import { useProblems } from '../stores/problems'
import { useTimelines } from '../stores/timelines'

const problems = useProblems()
const timelines = useTimelines()
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
interface Coming {
  readonly name: string
  share: number
  state: 'coming' | 'reading' | 'failed'
  problem: ProblemError['problem'] | null
  abort: () => void
}
const coming = ref<Coming[]>([])

async function bringIn(media: FilePath, cuts?: FilePath) {
  const t = await api('POST timelines', { body: { media, ...(cuts ? { cuts } : {}) } })
  await timelines.load()
  timelines.choose(t.id)
}

/** Dropped files: a list goes with the media of its name; on its own it is a timeline of many sources. */
async function take(files: readonly File[]) {
  const arrived: { file: File; place: FilePath; c: Coming }[] = []
  for (const file of files) {
    const c = reactive<Coming>({ name: file.name, share: 0, state: 'coming', problem: null, abort: () => undefined })
    coming.value.push(c)
    const job = upload(file, (s) => (c.share = s))
    c.abort = job.abort
    try {
      arrived.push({ file, place: await job.done, c })
      c.state = 'reading'
    } catch (e) {
      c.state = 'failed'
      c.problem = e instanceof ProblemError ? e.problem : { code: 'upload.failed', message: String(e) }
    }
  }
  const isList = (n: string) => isTimelineFile(n) || isChapterFile(n)
  const stem = (n: string) => n.replace(/\.[^.]+$/, '').toLowerCase()
  const media = arrived.filter((a) => !isList(a.file.name))
  const lists = arrived.filter((a) => isList(a.file.name))
  const settle = async (a: (typeof arrived)[number], action: () => Promise<unknown>) => {
    try {
      await action()
      coming.value = coming.value.filter((c) => c !== a.c)
    } catch (e) {
      a.c.state = 'failed'
      a.c.problem = e instanceof ProblemError ? e.problem : { code: 'internal.error', message: String(e) }
    }
  }
  for (const m of media) {
    const list = lists.find((l) => stem(l.file.name) === stem(m.file.name))
    if (list) lists.splice(lists.indexOf(list), 1)
    await settle(m, () => bringIn(m.place, list?.place))
    if (list) coming.value = coming.value.filter((c) => c !== list.c)
  }
  // a list on its own is a timeline of many sources; chapters go with the timeline of their name, or the one in hand
  for (const l of lists) {
    await settle(l, async () => {
      if (!isChapterFile(l.file.name)) return bringIn(l.place)
      const t =
        timelines.all.find((x) => stem(x.file.path.split('/').at(-1)!) === stem(l.file.name)) ?? timelines.current
      if (!t)
        throw new ProblemError({
          code: 'vtt.no-timeline',
          message: 'Chapters need a timeline to stand on.',
          where: l.file.name,
          fix: 'Bring in the timeline first.',
        })
      await timelines.patch(t.id, { cuts: l.place })
    })
  }
}
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
const moveLabel = (shift: number) =>
  `Move its cuts ${plural(Math.abs(shift), 'frame')} ${shift > 0 ? 'later' : 'earlier'}`
const shift = (t: ShownTimeline, by: number) =>
  problems.attempt(() => timelines.patch(t.id, { cutsOffset: t.cutsOffset + by }))
async function setRate(t: ShownTimeline, select: HTMLSelectElement) {
  const done = await problems.attempt(() => timelines.patch(t.id, { rate: select.value }))
  if (!done) select.value = rateLabel(t.model.rate)
}
/** The rates stills can be given; the one they say themselves comes first when it is none of these. */
const ratesOf = (t: ShownTimeline) =>
  [...(rates.some((r) => sameRate(r, t.model.rate)) ? [] : [t.model.rate]), ...rates].map(rateLabel)
async function remove(t: ShownTimeline) {
  if (!confirm(`Take “${t.name}” and its regions off the list? The media file stays where it is.`)) return
  await problems.attempt(async () => {
    await api('DELETE timelines/:id', { params: { id: t.id } })
    await timelines.load()
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
const bars = (t: ShownTimeline) =>
  troublesOf(t.model, t.sources).map((x) => ({
    ...x,
    left: (x.in / t.model.length) * 100,
    width: Math.max(0.3, ((x.out - x.in) / t.model.length) * 100),
  }))
function contact(t: ShownTimeline): number[] {
  const shots = shotsOf(t.model)
  const n = 9
  if (shots.length <= n)
    return Array.from({ length: n }, (_, i) =>
      Math.min(t.model.length - 1, Math.floor(((i + 0.3) * t.model.length) / n)),
    )
  return Array.from({ length: n }, (_, i) => {
    const s = shots[Math.floor((i * shots.length) / n)]!
    return Math.floor((s.in + s.out) / 2)
  })
}
const found = (t: ShownTimeline) => {
  const p = t.analysis.pictures
  if (!p) return null
  const s = t.analysis.sound?.faults
  const parts = [
    p.cuts &&
      (t.comparison
        ? `${t.comparison.agree} of ${plural(t.comparison.given, 'cut')} found again`
        : plural(p.cuts.length, 'change of shot', 'changes of shot')),
    p.black.length && plural(p.black.length, 'black stretch', 'black stretches'),
    p.freeze.length && plural(p.freeze.length, 'freeze'),
    p.flashes.length && plural(p.flashes.length, 'burst of flashes', 'bursts of flashes'),
    p.levels?.excursions.length && plural(p.levels.excursions.length, 'stretch out of level', 'stretches out of level'),
    p.levels?.active && `picture ${p.levels.active.width}×${p.levels.active.height} between bars`,
    s?.silence.length && plural(s.silence.length, 'silence'),
    s?.clicks.length && plural(s.clicks.length, 'click'),
    s?.dropouts.length && plural(s.dropouts.length, 'dropout'),
    s?.phase.length && plural(s.phase.length, 'stretch out of phase', 'stretches out of phase'),
  ].filter(Boolean)
  return parts.length ? parts.join(' · ') : 'no faults'
}
/** How far the pass over the pictures has come, and seconds left at the speed seen. */
function progress(t: ShownTimeline): { share: number; left: number | null } | null {
  const open = timelines.background.find(
    (b) => b.kind === 'analyse-segment' && !b.failed && b.content === t.fingerprint.content,
  )
  if (!open) return null
  const todo = open.left
  const now = Date.now()
  const begun = seen.get(t.fingerprint.content) ?? { at: now, todo }
  seen.set(t.fingerprint.content, begun)
  const speed = (begun.todo - todo) / Math.max(0.001, (now - begun.at) / 1000)
  return {
    share: 1 - todo / Math.max(1, t.model.length),
    left: speed > 0 && now - begun.at > 2000 ? todo / speed : null,
  }
}
const seen = new Map<string, { at: number; todo: number }>()
function drop(e: DragEvent) {
  over.value = false
  void take([...(e.dataTransfer?.files ?? [])])
}
function toDesk(id: string) {
  timelines.choose(id)
  void navigateTo('/desk')
}
/** What can be chosen in the picker, by what it is for. */
const accepts = {
  media: (name: string) => isPictureFile(name) || isTimelineFile(name) || isStillRun(name),
  cuts: (name: string) => isTimelineFile(name) || isChapterFile(name),
  watch: () => false,
  reveal: (name: string) => isPictureFile(name) || isTimelineFile(name) || isStillRun(name),
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
      :accept="[...timelineEndings(), 'video/*'].join()"
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

    <article
      v-for="{ t, older, newest, key, count } in shown"
      :key="t.id"
      class="panel timeline"
      :class="{ inhand: t.id === timelines.current?.id, older: !newest }"
    >
      <div class="contact" @click="toDesk(t.id)">
        <img v-for="f in contact(t)" :key="f" :src="frameUrl(t, f, 240)" alt="" loading="lazy" />
      </div>
      <div
        v-if="t.assembled"
        class="bars"
        :title="bars(t).length ? 'Where media is not as it should be' : 'All media is there'"
      >
        <button
          v-for="(b, i) in bars(t)"
          :key="i"
          :class="{ grave: b.grave }"
          :style="{ left: `${b.left}%`, width: `${b.width}%` }"
          :title="`${formatTimecode(t.model.start + b.in, t.model)}: ${b.word}`"
          :aria-label="`${formatTimecode(t.model.start + b.in, t.model)}: ${b.word}`"
          @click="showOnDesk(t.id, b.in)"
        />
      </div>
      <div class="row spread body">
        <div class="grow">
          <div class="row">
            <DraftInput
              class="bare title"
              :value="t.name"
              aria-label="Name of the timeline"
              @change="(name: string) => problems.attempt(() => timelines.patch(t.id, { name }))"
            />
          </div>
          <p class="quiet small">
            {{ t.show }} ·
            <button class="plain num" title="Show it in storage" @click="picking = { for: 'reveal', at: t.file }">
              {{ t.file.root }}/{{ t.file.path }}
            </button>
            · {{ bytesText(t.info.size) }}{{ t.assembled ? ' of media' : ''
            }}<template v-if="t.cuts">
              · cuts from <span class="num">{{ t.cuts.path.split('/').at(-1) }}</span></template
            ><template v-if="newest && count > 1">
              ·
              <button class="plain" :aria-expanded="opened.includes(key)" @click="toggle(key)">
                {{ opened.includes(key) ? 'fold' : 'show' }} {{ plural(older, 'earlier version') }}
              </button></template
            >
          </p>
        </div>
        <div class="row">
          <Button
            size="small"
            severity="secondary"
            :label="t.assembled ? 'Chapters from a list' : 'Cuts or chapters from a list'"
            @click="picking = { for: 'cuts', id: t.id }"
          />
          <Button size="small" severity="secondary" label="Remove" @click="remove(t)" />
          <Button size="small" label="To the desk" @click="toDesk(t.id)" />
        </div>
      </div>
      <dl>
        <div>
          <dt>Rate</dt>
          <dd v-if="t.info.container === 'stills' && !t.assembled">
            <select
              class="num rate"
              :value="rateLabel(t.model.rate)"
              :aria-label="`Rate of ${t.name}`"
              title="Stills run as fast as you say"
              @change="setRate(t, $event.target as HTMLSelectElement)"
            >
              <option v-for="r in ratesOf(t)" :key="r">{{ r }}</option>
            </select>
          </dd>
          <dd v-else class="num">{{ rateLabel(t.model.rate) }}{{ t.model.dropFrame ? ' drop-frame' : '' }}</dd>
        </div>
        <div>
          <dt>Raster</dt>
          <dd class="num">{{ t.info.video[0]!.width }}×{{ t.info.video[0]!.height }}</dd>
        </div>
        <div>
          <dt>Pictures</dt>
          <dd>
            {{ t.info.video[0]!.codec }} {{ t.info.video[0]!.profile }}
            <span class="num">{{ t.info.video[0]!.chroma }}</span>
          </dd>
        </div>
        <div>
          <dt>Starts</dt>
          <dd class="num">{{ formatTimecode(t.model.start, t.model) }}</dd>
        </div>
        <div>
          <dt>Length</dt>
          <dd class="num">{{ formatLength(t.model.length, t.model) }}</dd>
        </div>
        <div>
          <dt>Sound</dt>
          <dd>
            {{
              sourceChannels(t.info)
                ? `${sourceChannels(t.info)} × ${t.assembled ? '' : t.info.audio[0]!.codec} ` +
                  `${t.info.audio[0]!.sampleRate / 1000} kHz`
                : 'none'
            }}
          </dd>
        </div>
        <div v-if="t.assembled">
          <dt>Events</dt>
          <dd class="num">{{ t.model.events.length }} on {{ plural(t.model.tracks.length, 'track') }}</dd>
        </div>
        <div>
          <dt>Shots</dt>
          <dd class="num">{{ shotsOf(t.model).length }}</dd>
        </div>
        <div v-if="t.model.markers.length">
          <dt>Markers</dt>
          <dd class="num">{{ t.model.markers.length }}</dd>
        </div>
        <div>
          <dt>Regions</dt>
          <dd class="num">{{ t.split.regions.length }}</dd>
        </div>
        <div class="wide">
          <dt>Found in it</dt>
          <dd v-if="found(t)">
            {{ found(t)
            }}<template v-if="t.analysis.sound?.facts.integrated">
              · <span class="num">{{ t.analysis.sound.facts.integrated.toFixed(1).replace('-', '−') }} LUFS</span> over
              all</template
            >
          </dd>
          <dd v-else class="quiet">
            looking through it<template v-if="progress(t)">
              · <span class="num">{{ Math.round(progress(t)!.share * 100) }} %</span
              ><template v-if="progress(t)!.left !== null"
                >, {{ spanText(progress(t)!.left!) }} left</template
              ></template
            >
          </dd>
        </div>
      </dl>
      <ChangeList v-if="older > 0" :timeline="t" />
      <div v-if="t.comparison && t.comparison.shift !== null" class="row shifted">
        <VerdictMark verdict="caution" /><span
          >The list is {{ plural(Math.abs(t.comparison.shift), 'frame') }}
          {{ t.comparison.shift > 0 ? 'early' : 'late' }} against the pictures, everywhere.</span
        >
        <Button size="small" :label="moveLabel(t.comparison.shift)" @click="shift(t, t.comparison.shift)" />
      </div>
      <SourceList v-if="t.assembled" :timeline="t" />
      <div v-if="t.mediaProblem || t.problems.length" class="stack notes">
        <ProblemNote v-if="t.mediaProblem" :problem="t.mediaProblem" /><ProblemNote
          v-for="(p, i) in t.problems.slice(0, 5)"
          :key="i"
          :problem="p"
        />
        <p v-if="t.problems.length > 5" class="quiet small">and {{ t.problems.length - 5 }} more</p>
      </div>
    </article>
    <div class="drop" :class="{ over, small: timelines.all.length > 0 && !over }">
      <h2>{{ timelines.all.length ? 'Drop more timelines here' : 'Drop an edited timeline here' }}</h2>
      <p class="quiet">
        An edit decision list, OpenTimelineIO, a composition playlist or CSV: its media is looked for below the storage
        roots. Or one flattened MP4 or MOV file, alone or with the list of its cuts.
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
.timeline {
  margin-bottom: 16px;
  overflow: hidden;
}
.timeline.inhand {
  border-color: var(--crane);
}
.timeline.older {
  margin-left: 32px;
}
.contact {
  display: grid;
  grid-template-columns: repeat(9, 1fr);
  gap: 2px;
  cursor: pointer;
  background: #000;
}
.contact img {
  width: 100%;
  aspect-ratio: 16 / 9;
  object-fit: cover;
  display: block;
  background: var(--raised);
}
.older .contact img {
  aspect-ratio: 16 / 5;
}
.bars {
  position: relative;
  height: 9px;
  background: var(--raised);
}
.bars button {
  position: absolute;
  top: 0;
  height: 9px;
  border: 0;
  padding: 0;
  min-width: 3px;
  background: var(--ochre);
  cursor: pointer;
}
.bars button.grave {
  background: var(--red);
}
.bars button:hover {
  filter: brightness(1.25);
}
.body {
  padding: 10px 16px 4px;
  align-items: start;
}
.title {
  font:
    600 18px 'Bricolage Grotesque Variable',
    sans-serif;
}
dl {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 28px;
  margin: 6px 16px 12px;
}
dt {
  font-size: 11.5px;
  color: var(--quiet);
}
dd {
  margin: 0;
  font-size: 13.5px;
}
select.rate {
  background: var(--raised);
  color: var(--text);
  border: 1px solid var(--line);
  border-radius: 2px;
  padding: 0 2px;
  margin: -2px 0 0 -3px;
  font-size: 13.5px;
}
.shifted {
  padding: 8px 16px;
  border-top: 1px solid var(--line);
  font-size: 13.5px;
}
.notes {
  gap: 7px;
  padding: 0 16px 12px;
}
</style>
