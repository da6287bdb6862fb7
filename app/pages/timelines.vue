<script setup lang="ts">
import { FolderOpen, Upload } from 'lucide-vue-next'
import { sourceChannels } from '../../core/recipe/output'
import { rateLabel } from '../../core/time/rate'
import { formatLength, formatTimecode } from '../../core/time/timecode'
import { shotsOf } from '../../core/timeline/model'
import { ProblemError } from '../../core/problem'
import { api, upload } from '../lib/api'
import { frameUrl } from '../lib/stills'
import { bytesText, plural } from '../lib/text'
import { useWorld, type WorldTimeline } from '../stores/world'

const world = useWorld()
const over = ref(false)
const picking = ref<null | { for: 'media' } | { for: 'cuts', id: string }>(null)
const field = ref<HTMLInputElement>()
interface Coming { readonly name: string, share: number, state: 'coming' | 'reading' | 'failed', problem: ProblemError['problem'] | null, abort: () => void }
const coming = ref<Coming[]>([])

async function bringIn(media: { root: string, path: string }, cuts?: { root: string, path: string }) {
  const t = await api<{ id: string }>('timelines', { method: 'POST', body: { media, ...(cuts ? { cuts } : {}) } })
  await world.loadTimelines()
  world.choose(t.id)
}

/** Dropped files: an edit decision list goes with the media of the same name, or with the only one dropped. */
async function take(files: readonly File[]) {
  const arrived: { file: File, place: { root: string, path: string }, c: Coming }[] = []
  for (const file of files) {
    const c = reactive<Coming>({ name: file.name, share: 0, state: 'coming', problem: null, abort: () => undefined })
    coming.value.push(c)
    const job = upload(file, s => (c.share = s))
    c.abort = job.abort
    try {
      arrived.push({ file, place: await job.done, c })
      c.state = 'reading'
    }
    catch (e) {
      c.state = 'failed'
      c.problem = e instanceof ProblemError ? e.problem : { code: 'upload.failed', message: String(e) }
    }
  }
  const isList = (n: string) => /\.edl$/i.test(n)
  const stem = (n: string) => n.replace(/\.[^.]+$/, '').toLowerCase()
  const media = arrived.filter(a => !isList(a.file.name))
  const lists = arrived.filter(a => isList(a.file.name))
  const settle = async (a: (typeof arrived)[number], action: () => Promise<unknown>) => {
    try {
      await action()
      coming.value = coming.value.filter(c => c !== a.c)
    }
    catch (e) {
      a.c.state = 'failed'
      a.c.problem = e instanceof ProblemError ? e.problem : { code: 'internal.error', message: String(e) }
    }
  }
  for (const m of media) {
    const list = lists.find(l => stem(l.file.name) === stem(m.file.name)) ?? (media.length === 1 ? lists[0] : undefined)
    await settle(m, () => bringIn(m.place, list?.place))
    if (list) coming.value = coming.value.filter(c => c !== list.c)
  }
  if (media.length === 0) {
    for (const l of lists) {
      await settle(l, async () => {
        const t = world.timelines.find(x => stem(x.place.path.split('/').at(-1)!) === stem(l.file.name)) ?? world.timeline
        if (!t) throw new ProblemError({ code: 'edl.no-media', message: 'A list of cuts needs its media.', where: l.file.name, fix: 'Drop the media file together with the list.' })
        await api(`timelines/${t.id}`, { method: 'PATCH', body: { cuts: l.place } })
        await world.loadTimelines()
      })
    }
  }
}
function chosen(place: { root: string, path: string }) {
  const p = picking.value
  picking.value = null
  void world.attempt(async () => {
    if (p?.for === 'cuts') {
      await api(`timelines/${p.id}`, { method: 'PATCH', body: { cuts: place } })
      return world.loadTimelines()
    }
    // a list of the same name beside the media comes along
    const folder = place.path.split('/').slice(0, -1).join('/')
    const { entries } = await api<{ entries: { name: string, path: string }[] }>(`files?root=${encodeURIComponent(place.root)}&path=${encodeURIComponent(folder)}`)
    const list = entries.find(e => e.path.toLowerCase() === place.path.replace(/\.[^.]+$/, '.edl').toLowerCase())
    return bringIn(place, list && { root: place.root, path: list.path })
  })
}
async function remove(t: WorldTimeline) {
  if (!confirm(`Take “${t.name}” and its regions off the list? The media file stays where it is.`)) return
  await world.attempt(async () => {
    await api(`timelines/${t.id}`, { method: 'DELETE' })
    await world.loadTimelines()
  })
}
function contact(t: WorldTimeline): number[] {
  const shots = shotsOf(t.model)
  const n = 9
  if (shots.length <= n) return Array.from({ length: n }, (_, i) => Math.min(t.model.length - 1, Math.floor(((i + 0.3) * t.model.length) / n)))
  return Array.from({ length: n }, (_, i) => {
    const s = shots[Math.floor((i * shots.length) / n)]!
    return Math.floor((s.in + s.out) / 2)
  })
}
const found = (t: WorldTimeline) => {
  const p = t.analysis.pictures
  if (!p) return null
  const parts = [p.black.length && plural(p.black.length, 'black stretch', 'black stretches'), p.freeze.length && plural(p.freeze.length, 'freeze'), p.flashes.length && plural(p.flashes.length, 'burst of flashes', 'bursts of flashes')].filter(Boolean)
  return parts.length ? parts.join(' · ') : 'no black, freeze or flashes'
}
const progress = (t: WorldTimeline) => world.background.filter(b => b.key.includes(t.stamp.content) && b.kind === 'analyse-pictures')[0]
</script>

<template>
  <div class="station" @dragover.prevent="over = true" @dragleave.self="over = false" @drop.prevent="over = false; take([...($event.dataTransfer?.files ?? [])])">
    <div class="row spread top">
      <div><h1>Timelines</h1><p class="quiet">What was brought in, from where, and what does not match.</p></div>
      <div class="row"><Button severity="secondary" @click="field?.click()"><Upload :size="15" /> Bring in a file</Button><Button @click="picking = { for: 'media' }"><FolderOpen :size="15" /> From storage</Button></div>
    </div>
    <input ref="field" type="file" multiple hidden accept=".mp4,.mov,.m4v,.edl,video/*" @change="take([...(field?.files ?? [])])">

    <div v-for="c in coming" :key="c.name" class="panel coming">
      <div class="row spread">
        <span>{{ c.name }}</span><span v-if="c.state === 'coming'" class="num quiet">{{ Math.round(c.share * 100) }} %</span><span v-else-if="c.state === 'reading'" class="quiet">reading its index</span>
        <button class="plain quiet" @click="c.state === 'coming' ? c.abort() : (coming = coming.filter(x => x !== c))">{{ c.state === 'coming' ? 'stop' : '✕' }}</button>
      </div>
      <ProgressBar v-if="c.state !== 'failed'" :value="c.share * 100" />
      <ProblemNote v-if="c.problem" :problem="c.problem" />
    </div>

    <article v-for="t in world.timelines" :key="t.id" class="panel timeline" :class="{ inhand: t.id === world.timeline?.id }">
      <div class="contact" @click="world.choose(t.id); navigateTo('/desk')"><img v-for="f in contact(t)" :key="f" :src="frameUrl(t.id, f, 240)" alt="" loading="lazy"></div>
      <div class="row spread body">
        <div class="grow">
          <div class="row"><DraftInput class="bare title" :value="t.name" aria-label="Name of the timeline" @change="(name: string) => world.attempt(() => api(`timelines/${t.id}`, { method: 'PATCH', body: { name } }))" /></div>
          <p class="quiet small">{{ t.show }} · <span class="num">{{ t.place.root }}/{{ t.place.path }}</span> · {{ bytesText(t.info.size) }}<template v-if="t.cuts"> · cuts from <span class="num">{{ t.cuts.path.split('/').at(-1) }}</span></template></p>
        </div>
        <div class="row">
          <Button size="small" severity="secondary" label="Cuts from a list" @click="picking = { for: 'cuts', id: t.id }" />
          <Button size="small" severity="secondary" label="Remove" @click="remove(t)" />
          <Button size="small" label="To the desk" @click="world.choose(t.id); navigateTo('/desk')" />
        </div>
      </div>
      <dl>
        <div><dt>Rate</dt><dd class="num">{{ rateLabel(t.model.rate) }}{{ t.model.dropFrame ? ' drop-frame' : '' }}</dd></div>
        <div><dt>Raster</dt><dd class="num">{{ t.info.video[0]!.width }}×{{ t.info.video[0]!.height }}</dd></div>
        <div><dt>Pictures</dt><dd>{{ t.info.video[0]!.codec }} {{ t.info.video[0]!.profile }} <span class="num">{{ t.info.video[0]!.chroma }}</span></dd></div>
        <div><dt>Starts</dt><dd class="num">{{ formatTimecode(t.model.start, t.model) }}</dd></div>
        <div><dt>Length</dt><dd class="num">{{ formatLength(t.model.length, t.model) }}</dd></div>
        <div><dt>Sound</dt><dd>{{ sourceChannels(t.info) ? `${sourceChannels(t.info)} × ${t.info.audio[0]!.codec} ${t.info.audio[0]!.sampleRate / 1000} kHz` : 'none' }}</dd></div>
        <div><dt>Shots</dt><dd class="num">{{ shotsOf(t.model).length }}</dd></div>
        <div><dt>Regions</dt><dd class="num">{{ t.split.regions.length }}</dd></div>
        <div class="wide"><dt>Found in it</dt><dd v-if="found(t)">{{ found(t) }}<template v-if="t.analysis.sound?.facts.integrated"> · <span class="num">{{ t.analysis.sound.facts.integrated.toFixed(1).replace('-', '−') }} LUFS</span> over all</template></dd><dd v-else class="quiet">looking through it<template v-if="progress(t)?.done"> · <span class="num">{{ Math.round((progress(t)!.done / Math.max(1, progress(t)!.total)) * 100) }} %</span></template></dd></div>
      </dl>
      <div v-if="t.mediaProblem || t.problems.length" class="stack notes"><ProblemNote v-if="t.mediaProblem" :problem="t.mediaProblem" /><ProblemNote v-for="(p, i) in t.problems.slice(0, 5)" :key="i" :problem="p" /><p v-if="t.problems.length > 5" class="quiet small">and {{ t.problems.length - 5 }} more</p></div>
    </article>
    <div class="drop" :class="{ over, small: world.timelines.length > 0 && !over }">
      <h2>{{ world.timelines.length ? 'Drop another timeline here' : 'Drop an edited timeline here' }}</h2>
      <p class="quiet">One flattened MP4 or MOV file, alone or together with its edit decision list. Only its index is read at first; a long file is ready at once when you choose it from storage.</p>
    </div>
    <FilePicker v-if="picking" :title="picking.for === 'media' ? 'Bring in a media file' : 'Cuts from an edit decision list'" :accept="picking.for === 'media' ? /\.(mp4|mov|m4v)$/i : /\.edl$/i" @close="picking = null" @choose="chosen" />
  </div>
</template>

<style scoped>
.top { margin-bottom: 16px; }
.drop { border: 1.5px dashed var(--line); padding: 44px 30px; text-align: center; margin-bottom: 16px; border-radius: 3px; }
.drop.over { border-color: var(--crane); background: var(--surface); }
.drop.small { padding: 20px 30px; } .drop.small h2 { font-size: 15px; }
.drop p { max-width: 520px; margin: 8px auto 0; }
.coming { padding: 8px 14px; margin-bottom: 10px; display: flex; flex-direction: column; gap: 6px; }
.timeline { margin-bottom: 16px; overflow: hidden; }
.timeline.inhand { border-color: var(--crane); }
.contact { display: grid; grid-template-columns: repeat(9, 1fr); gap: 2px; cursor: pointer; background: #000; }
.contact img { width: 100%; aspect-ratio: 16 / 9; object-fit: cover; display: block; background: var(--raised); }
.body { padding: 10px 16px 4px; align-items: start; }
.title { font: 600 18px 'Bricolage Grotesque Variable', sans-serif; }
dl { display: flex; flex-wrap: wrap; gap: 6px 28px; margin: 6px 16px 12px; }
dt { font-size: 11.5px; color: var(--quiet); } dd { margin: 0; font-size: 13.5px; }
.notes { gap: 7px; padding: 0 16px 12px; }
</style>
