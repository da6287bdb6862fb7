<script setup lang="ts">
import type { ShownTimeline } from '../../../contract/timelines'
import { beatsText } from '../../../core/analysis/cadence'
import { momentsText, unlikeLabel } from '../../../core/analysis/fields'
import { codecLabel } from '../../../core/codec/registry'
import { dataText } from '../../../core/media/ancillary'
import type { Scan, VideoInfo } from '../../../core/media/media'
import { asLabelled, saidOf, scanSchema, scanText } from '../../../core/media/scan'
import { countsSamples, rateLabel, rates, sameRate } from '../../../core/time/rate'
import { formatLength, formatTimecode } from '../../../core/time/timecode'
import { formatNamed } from '../../../core/timeline/formats/registry'
import { asksSoundTracks, isSoundAlone, shotsOf, type SoundTracks } from '../../../core/timeline/model'
import { heardChannels, soundText, unheardText } from '../../lib/hearing'
import { unseenText } from '../../lib/seeing'
import { plural, spanText } from '../../lib/text'
import { useProblems } from '../../stores/problems'
import { useTimelines } from '../../stores/timelines'

/** What a timeline is, in figures, and what the pass over its pictures and sound found. */
const props = defineProps<{ timeline: ShownTimeline }>()
const problems = useProblems()
const timelines = useTimelines()
const t = computed(() => props.timeline)
const pictures = computed(() => props.timeline.info.video[0])
const carries = computed(() => props.timeline.info.data?.map(dataText).join('; ') ?? '')
const alone = computed(() => countsSamples(props.timeline.model.rate))

/** Stills run as fast as one says; so does a list that does not say it. */
const asksRate = computed(() =>
  t.value.assembled ? formatNamed(t.value.file.path)?.asksRate : t.value.info.container === 'stills',
)
const setStart = (start: number) =>
  problems.attempt(() => timelines.patch(t.value.id, { start: formatTimecode(start, t.value.model) }))
async function setRate(t: ShownTimeline, select: HTMLSelectElement) {
  const done = await problems.attempt(() => timelines.patch(t.id, { rate: select.value }))
  if (!done) select.value = rateLabel(t.model.rate)
}
/** What pictures can be taken for, what their file says first. */
const scansOf = (v: VideoInfo) => {
  const own = asLabelled(v)
  const label = own.untold?.includes('scan') ? 'not told by the file' : scanText(own.scan)
  const others = scanSchema.options.filter(
    (s) => s !== 'interlaced' && (own.untold?.includes('scan') || s !== own.scan),
  )
  return [{ value: '', label }, ...others.map((value) => ({ value, label: `taken for ${scanText(value)}` }))]
}
async function setScan(t: ShownTimeline, select: HTMLSelectElement) {
  const done = await problems.attempt(() => timelines.patch(t.id, { scan: (select.value as Scan) || null }))
  if (!done) select.value = saidOf(t.info).scan ?? ''
}
async function setSoundTracks(t: ShownTimeline, select: HTMLSelectElement) {
  const soundTracks = select.value as SoundTracks
  const done = await problems.attempt(() => timelines.patch(t.id, { soundTracks }))
  if (!done) select.value = t.model.soundTracks ?? 'each'
}
/** The rates that can be given; the one there is comes first when it is none of these. */
const ratesOf = (t: ShownTimeline) =>
  [...(rates.some((r) => sameRate(r, t.model.rate)) ? [] : [t.model.rate]), ...rates].map(rateLabel)
const found = (t: ShownTimeline) => {
  const p = t.analysis.pictures
  const s = t.analysis.sound?.faults
  const seen = t.info.video.length > 0 && unseenText(t) === null
  if (seen ? !p : !s && heardChannels(t).length > 0) return null
  const other = p?.fields && t.info.video[0] ? unlikeLabel(p.fields, t.info.video[0].scan) : []
  const parts = [
    p?.cuts &&
      (t.comparison
        ? `${t.comparison.agree} of ${plural(t.comparison.given, 'cut')} found again`
        : p.cuts.length > 0
          ? plural(p.cuts.length, 'change of shot', 'changes of shot')
          : 'no change of shot'),
    p?.damaged &&
      `${plural(
        p.damaged.reduce((n, r) => n + r.out - r.in, 0),
        'picture',
      )} cannot be decoded`,
    p?.black.length && plural(p.black.length, 'black stretch', 'black stretches'),
    p?.freeze.length && plural(p.freeze.length, 'freeze'),
    p?.flashes.length && plural(p.flashes.length, 'burst of flashes', 'bursts of flashes'),
    other.length &&
      `${momentsText(other)}, in ${plural(other.length, 'stretch', 'stretches')}, though said to be ` +
        scanText(t.info.video[0]!.scan),
    p?.cadence?.length && `${beatsText(p.cadence)}, in ${plural(p.cadence.length, 'stretch', 'stretches')}`,
    p?.levels?.excursions.length &&
      plural(p.levels.excursions.length, 'stretch out of level', 'stretches out of level'),
    p?.levels?.active && `picture ${p.levels.active.width}×${p.levels.active.height} between bars`,
    s?.silence.length && plural(s.silence.length, 'silence'),
    s?.clicks.length && plural(s.clicks.length, 'click'),
    s?.dropouts.length && plural(s.dropouts.length, 'dropout'),
    s?.data.length && plural(s.data.length, 'stretch of data in its sound', 'stretches of data in its sound'),
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
</script>

<template>
  <dl>
    <div>
      <dt>{{ alone ? 'Counted in' : 'Rate' }}</dt>
      <dd v-if="asksRate">
        <select
          class="num"
          :value="rateLabel(t.model.rate)"
          :aria-label="`Rate of ${t.name}`"
          :title="
            t.assembled
              ? 'The list does not say its rate: its labels are read anew at the one you choose'
              : 'Stills run as fast as you say'
          "
          @change="setRate(t, $event.target as HTMLSelectElement)"
        >
          <option v-for="r in ratesOf(t)" :key="r">{{ r }}</option>
        </select>
      </dd>
      <dd v-else-if="alone">samples</dd>
      <dd v-else class="num">{{ rateLabel(t.model.rate) }}{{ t.model.dropFrame ? ' drop-frame' : '' }}</dd>
    </div>
    <template v-if="pictures">
      <div>
        <dt>Raster</dt>
        <dd class="num">{{ pictures.width }}×{{ pictures.height }}</dd>
      </div>
      <div>
        <dt>Pictures</dt>
        <dd>
          {{ codecLabel(pictures.codec) }} {{ pictures.profile }}{{ ' '
          }}<span v-if="!pictures.untold?.includes('chroma')" class="num">{{ pictures.chroma }}</span>
          <p v-if="unseenText(t)" class="ochre small">{{ unseenText(t) }}</p>
        </dd>
      </div>
    </template>
    <div v-if="pictures">
      <dt>Scan</dt>
      <dd v-if="t.assembled">{{ pictures.untold?.includes('scan') ? 'not told by all' : scanText(pictures.scan) }}</dd>
      <dd v-else>
        <select
          :value="saidOf(t.info).scan ?? ''"
          :aria-label="`Scan of ${t.name}`"
          title="Where a file says it wrongly, or not at all, what you choose is gone by"
          @change="setScan(t, $event.target as HTMLSelectElement)"
        >
          <option v-for="s in scansOf(pictures)" :key="s.value" :value="s.value">{{ s.label }}</option>
        </select>
      </dd>
    </div>
    <div v-if="carries">
      <dt>Also carries</dt>
      <dd>{{ carries }}</dd>
    </div>
    <div>
      <dt>Starts</dt>
      <dd>
        <TimecodeField
          :frame="t.model.start"
          :base="t.model"
          :start="0"
          :label="`Start of ${t.name}: type another`"
          @change="setStart"
        />
      </dd>
    </div>
    <div>
      <dt>Length</dt>
      <dd class="num">{{ formatLength(t.model.length, t.model) }}</dd>
    </div>
    <div>
      <dt>Sound</dt>
      <dd>
        {{ soundText(t.info, !t.assembled) }}
        <p v-if="unheardText(t)" class="ochre small">{{ unheardText(t) }}</p>
      </dd>
    </div>
    <div v-if="t.assembled && asksSoundTracks(t.model)">
      <dt>Sound tracks</dt>
      <dd>
        <select
          :value="t.model.soundTracks ?? 'each'"
          :aria-label="`Sound tracks of ${t.name}`"
          title="The list does not say which channels its tracks carry: you do"
          @change="setSoundTracks(t, $event.target as HTMLSelectElement)"
        >
          <option value="each">one channel each, side by side</option>
          <option value="beside">all channels each, side by side</option>
          <option value="mixed">all channels each, mixed</option>
        </select>
      </dd>
    </div>
    <div v-if="t.assembled">
      <dt>Events</dt>
      <dd class="num">{{ t.model.events.length }} on {{ plural(t.model.tracks.length, 'track') }}</dd>
    </div>
    <div v-if="!alone">
      <dt>{{ isSoundAlone(t.model) ? 'Stretches' : 'Shots' }}</dt>
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
          ><template v-if="progress(t)!.left !== null">, {{ spanText(progress(t)!.left!) }} left</template></template
        >
      </dd>
    </div>
  </dl>
</template>

<style scoped>
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
select {
  font-family: inherit;
  background: var(--raised);
  color: var(--text);
  border: 1px solid var(--line);
  border-radius: 2px;
  padding: 0 2px;
  margin: -2px 0 0 -3px;
  font-size: 13.5px;
}
</style>
