<script setup lang="ts">
import type { ShownTimeline } from '../../contract/timelines'
import { unitOf } from '../../core/time/rate'
import { formatLength, formatTimecode } from '../../core/time/timecode'
import { bytesText } from '../lib/text'
import { Player } from '../lib/player'
import { frameUrl } from '../lib/stills'
import { useEditor } from '../stores/editor'
import { useDeliverables } from '../stores/deliverables'
import { useShelf } from '../stores/shelf'

/** The picture at the playhead, exact to the frame; transport; the selected region's ends, papers and files. */
const props = defineProps<{ timeline: ShownTimeline }>()
const desk = useEditor()
const deliverables = useDeliverables()
const shelf = useShelf()
const audio = ref<HTMLAudioElement>()
const sharp = ref(false)
const picture = ref(frameUrl(props.timeline, desk.playhead, 480))
const canvas = ref<HTMLCanvasElement>()
const rate = computed(() => props.timeline.model.rate.num / props.timeline.model.rate.den)
/** Whether what is played covers the still picture. */
const covered = ref(false)
let player: Player | null = null
watch(
  () => frameUrl(props.timeline, 0, 0),
  () => {
    player?.close()
    const { id, fingerprint, assembled, info } = props.timeline
    const ready = () => desk.playing && player?.play(desk.playhead, desk.playing)
    player =
      assembled || !info.video[0]?.webCodec
        ? null
        : new Player(`/api/timelines/${id}/media?of=${fingerprint.content}`, ready)
  },
  { immediate: true },
)

const uncover = () => (covered.value &&= desk.playing !== 0)

/** Draws the picture that is due at a frame, when the page plays the file itself. */
function draw(frame: number) {
  const due = player?.playable ? player.take(frame, rate.value) : null
  if (!due) return
  covered.value = true
  const { displayWidth, displayHeight } = due.picture
  const to = canvas.value
  if (to) {
    if (to.width !== displayWidth || to.height !== displayHeight)
      Object.assign(to, { width: displayWidth, height: displayHeight })
    to.getContext('2d')?.drawImage(due.picture, 0, 0)
  }
  due.picture.close()
}

let settle: ReturnType<typeof setTimeout> | undefined
watch(
  [() => desk.playhead, () => props.timeline.id],
  () => {
    if (!covered.value || !desk.playing) picture.value = frameUrl(props.timeline, desk.playhead, 480)
    sharp.value = false
    clearTimeout(settle)
    if (desk.alone) return
    // the large picture is decoded only where the playhead comes to rest
    if (!desk.playing) settle = setTimeout(() => loadSharp(), 250)
  },
  { immediate: true },
)

function loadSharp() {
  if (desk.alone) return
  const frame = desk.playhead
  const image = new Image()
  image.onload = () => {
    if (frame !== desk.playhead || desk.playing) return
    picture.value = image.src
    sharp.value = true
  }
  image.src = frameUrl(props.timeline, frame, 1040)
}

let timer = 0
/** Counts what was played, so that what comes late of one does not move the next. */
let turn = 0
/** Plays at a speed. At normal speed the sound leads, and nothing moves before it is heard; else the clock does. */
watch(
  () => desk.playing,
  (speed) => {
    cancelAnimationFrame(timer)
    audio.value?.pause()
    const mine = ++turn
    if (speed === 0) {
      player?.stop()
      picture.value = frameUrl(props.timeline, desk.playhead, 480)
      loadSharp()
      return
    }
    const from = desk.playhead
    if (player?.playable) player.play(from, speed)
    /** Seconds played so far. */
    const run = (seconds: () => number) => {
      const step = () => {
        const frame = from + Math.floor(seconds() * rate.value * speed)
        desk.go(frame)
        draw(frame)
        if (frame >= desk.length - 1 || frame < 0) desk.playing = 0
        else timer = requestAnimationFrame(step)
      }
      if (mine === turn) timer = requestAnimationFrame(step)
    }
    const byClock = () => {
      const began = performance.now()
      run(() => (performance.now() - began) / 1000)
    }
    const sound = audio.value
    if (speed !== 1 || !sound || !props.timeline.info.audio.length) {
      byClock()
      return
    }
    const to = Math.min(desk.length, from + Math.ceil(rate.value * 120))
    sound.src = `/api/timelines/${props.timeline.id}/sound?from=${from}&to=${to}`
    sound.play().then(
      () => run(() => sound.currentTime),
      // sound that cannot be played lets the pictures go on
      () => mine === turn && byClock(),
    )
    // it is fetched two minutes at a time
    sound.onended = () => {
      if (mine !== turn) return
      desk.playing = 0
      void nextTick(() => (desk.playing = 1))
    }
  },
)
onBeforeUnmount(() => {
  desk.playing = 0
  cancelAnimationFrame(timer)
  player?.close()
})

const files = computed(() => deliverables.ofTimeline.filter((d) => d.regionId === desk.current?.id))
const outletName = (id: string) => shelf.outlets.find((o) => o.id === id)?.name ?? id
const speedText = (speed: number) => `${speed < 0 ? '−' : ''}${Math.abs(speed)} ×`
const fileName = (p: string) => p.split('/').at(-1)
</script>

<template>
  <section class="close" aria-label="Close-up">
    <div v-if="desk.alone" class="wave">
      <WaveView :timeline="timeline" :at="desk.playhead" :span="desk.second" :region="desk.current" zooms />
    </div>
    <div v-else class="picture">
      <img :src="picture" :alt="`Frame ${desk.playhead}`" @load="uncover" @error="uncover" />
      <canvas v-show="covered" v-if="covered || desk.playing" ref="canvas" class="played" />
      <span v-if="Math.abs(desk.playing) > 1 || desk.playing < 0" class="soft num">{{ speedText(desk.playing) }}</span>
      <span v-if="!sharp && !desk.playing" class="soft num">preview</span>
    </div>
    <audio ref="audio" />
    <div class="transport">
      <TimecodeField
        class="big"
        :frame="desk.playhead"
        :base="timeline.model"
        :start="timeline.model.start"
        label="Playhead"
        @change="desk.go($event)"
      />
      <span class="row keys">
        <button title="Shuttle back (J)" @click="desk.shuttle(-1)">◂◂</button>
        <button
          title="Play or pause (Space)"
          :class="{ on: desk.playing !== 0 }"
          @click="desk.playing = desk.playing ? 0 : 1"
        >
          {{ desk.playing ? '❚❚' : '▸' }}
        </button>
        <button title="Shuttle on (L)" @click="desk.shuttle(1)">▸▸</button>
        <button title="Mark in (I)" @click="desk.mark('in')">in <kbd>I</kbd></button>
        <button title="Mark out (O)" @click="desk.mark('out')">out <kbd>O</kbd></button>
        <button title="Split the region here (/)" @click="desk.splitHere()">split <kbd>/</kbd></button>
        <button title="Chapter marker (C)" @click="desk.chapter()">chapter <kbd>C</kbd></button>
      </span>
    </div>
    <div class="marked num small">
      <span class="quiet">{{ unitOf(timeline.model.rate) }} {{ desk.playhead }}</span>
      <template v-if="desk.markIn !== null || desk.markOut !== null">
        <span
          >marked
          {{ desk.markIn !== null ? formatTimecode(timeline.model.start + desk.markIn, timeline.model) : '…' }} →
          {{
            desk.markOut !== null ? formatTimecode(timeline.model.start + desk.markOut - 1, timeline.model) : '…'
          }}</span
        >
        <span v-if="desk.marked" class="quiet">{{
          formatLength(desk.marked.out - desk.marked.in, timeline.model)
        }}</span>
        <button class="plain quiet" title="Clear marks (Esc)" @click="desk.clearMarks()">✕</button>
      </template>
    </div>
    <template v-if="desk.current">
      <div class="row spread of">
        <h3 class="clip">{{ desk.current.name || 'Region without a name' }}</h3>
        <label class="row small quiet"
          >production number
          <DraftInput
            class="bare num docno"
            :value="desk.current.metadata['production number'] ?? ''"
            placeholder="type it"
            spellcheck="false"
            @keydown.stop
            @change="desk.setMetadata(desk.current!.id, 'production number', $event.trim())"
          />
        </label>
      </div>
      <EdgeView :timeline="timeline" :region="desk.current" />
      <div class="files">
        <div v-for="d in files" :key="d.outletId" class="file">
          <VerdictMark :verdict="d.verdict" />
          <span class="outlet">{{ outletName(d.outletId) }}</span>
          <span class="num clip grow" :title="d.path">{{ fileName(d.path) }}</span>
          <span class="num quiet">{{ bytesText(d.bytes) }}</span>
          <NuxtLink
            v-if="d.trouble.length"
            :to="{ path: '/checks', query: { deliverable: `${d.timelineId}/${d.regionId}/${d.outletId}` } }"
            class="small"
            >{{ d.trouble.filter((r) => r.blocks).length || d.trouble.length }} to see</NuxtLink
          >
        </div>
        <p v-if="!files.length" class="quiet small">
          No outlet gets this region yet. <NuxtLink to="/outlets">Choose outlets</NuxtLink>
        </p>
      </div>
    </template>
    <p v-else class="quiet small pad">
      Select a region to see its ends{{
        desk.alone ? '' : ': the frame before, the first, the last and the frame after'
      }}.
    </p>
  </section>
</template>

<style scoped>
.close {
  width: 540px;
  flex: 1 1 540px;
  min-width: 0;
  border-left: 1px solid var(--line);
  padding: 12px 14px;
  overflow-y: auto;
  display: flex;
  flex-direction: column;
  gap: 8px;
  background: var(--surface);
}
.picture {
  position: relative;
  background: #000;
  aspect-ratio: 16 / 9;
  max-height: 46vh;
  align-self: center;
  width: 100%;
  display: grid;
  place-items: center;
}
.wave {
  height: 30vh;
  flex: none;
}
.picture .played {
  position: absolute;
  inset: 0;
}
.picture img,
.picture .played {
  width: 100%;
  height: 100%;
  object-fit: contain;
  display: block;
}
.soft {
  position: absolute;
  right: 8px;
  top: 6px;
  font-size: 11px;
  color: #fff;
  background: rgb(0 0 0 / 0.5);
  padding: 0 5px;
  border-radius: 2px;
}
.transport {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  align-items: center;
  gap: 10px;
}
.big {
  font-size: 23px !important;
  font-weight: 600;
  color: var(--text);
}
.keys {
  gap: 4px;
}
.keys button {
  background: var(--raised);
  border: 1px solid var(--line);
  color: var(--text);
  font: inherit;
  font-size: 12.5px;
  padding: 2px 6px;
  border-radius: 2px;
  cursor: pointer;
  white-space: nowrap;
}
.keys button:hover,
.keys .on {
  border-color: var(--crane);
  color: var(--crane);
}
.marked {
  display: flex;
  gap: 14px;
  min-height: 18px;
}
.of {
  border-top: 1px solid var(--line);
  padding-top: 9px;
  gap: 14px;
}
.of h3 {
  min-width: 0;
}
.docno {
  width: 11ch !important;
  color: var(--text) !important;
  border-bottom: 1px dotted var(--quiet) !important;
}
.files {
  display: flex;
  flex-direction: column;
  gap: 3px;
  margin-top: 2px;
}
.file {
  display: flex;
  align-items: center;
  gap: 8px;
  font-size: 12.5px;
  min-width: 0;
}
.outlet {
  width: 88px;
  flex: none;
}
.pad {
  padding-top: 10px;
  border-top: 1px solid var(--line);
}
</style>
