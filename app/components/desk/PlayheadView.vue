<script setup lang="ts">
import type { ShownTimeline } from '../../../contract/timelines'
import { shapeOf } from '../../../core/media/aspect'
import { colourOf, shownWithout } from '../../../core/media/colour'
import { Player } from '../../lib/player'
import { frameUrl } from '../../lib/stills'
import { useEditor } from '../../stores/editor'
import { hearable, heardChannels } from '../../lib/hearing'
import { unseenText } from '../../lib/seeing'
import { useMonitor } from '../../stores/monitor'
import { usePlaying } from '../../stores/playing'

/** The picture at the playhead, exact to the frame, or the sound around it; and playing from there. */
const props = defineProps<{ timeline: ShownTimeline }>()
const desk = useEditor()
const monitor = useMonitor()
const unseen = computed(() => unseenText(props.timeline))
const playing = usePlaying()
const audio = ref<HTMLAudioElement>()
const pane = ref<HTMLElement>()
const canvas = ref<HTMLCanvasElement>()
/** The picture that the server made of it: small at first, large where the playhead rests. */
const picture = ref(frameUrl(props.timeline, desk.playhead, 480))
const sharp = ref(false)
const rate = computed(() => props.timeline.model.rate.num / props.timeline.model.rate.den)
/** Whether a picture that the page decoded itself covers it. */
const covered = ref(false)
/** The frame of this timeline that the page has drawn itself. */
let drawn = -1
/** How long the playhead rests before large pictures are decoded; and how long the page may take for its own, ms. */
const [rest, patience] = [250, 2000]
let player: Player | null = null
watch(
  () => frameUrl(props.timeline, 0, 0),
  () => {
    player?.close()
    playing.stop()
    drawn = -1
    covered.value = false
    const { id, fingerprint, assembled, info } = props.timeline
    const ready = () => (playing.speed ? player?.play(desk.playhead, playing.speed) : hold())
    const came = (frame: number) => frame === desk.playhead && playing.speed === 0 && drawHeld()
    player =
      assembled || !info.video[0]?.webCodec
        ? null
        : new Player(`/api/timelines/${id}/media?of=${fingerprint.content}`, ready, came)
  },
  { immediate: true },
)

/** Covers the server's picture with one of ours. */
function cover(image: VideoFrame | ImageBitmap, width: number, height: number) {
  const to = canvas.value
  if (!to) return
  if (to.width !== width || to.height !== height) Object.assign(to, { width, height })
  to.getContext('2d')?.drawImage(image, 0, 0)
  covered.value = true
}

/** Draws the picture that is due at a frame, when the page plays the file itself. */
function draw(frame: number) {
  const due = player?.playable ? player.take(frame, rate.value) : null
  if (!due) return
  cover(due.picture, due.picture.displayWidth, due.picture.displayHeight)
  drawn = due.frame
  due.picture.close()
}

/** Draws the frame at the playhead when the page holds it; false when it does not. */
function drawHeld(): boolean {
  const still = player?.still(desk.playhead)
  if (!still) return false
  clearTimeout(settle)
  cover(still, still.width, still.height)
  drawn = desk.playhead
  return (sharp.value = covered.value)
}

/** Holds what is around the playhead, as large as it is shown. */
function hold() {
  if (pane.value) player?.hold(desk.playhead, Math.ceil(pane.value.clientWidth * devicePixelRatio))
}

const uncover = () => (covered.value &&= playing.speed !== 0 || drawn === desk.playhead)

let settle: ReturnType<typeof setTimeout> | undefined
watch(
  [() => desk.playhead, () => props.timeline.id],
  () => {
    clearTimeout(settle)
    if (desk.alone) return
    if (!playing.speed) return show()
    // pictures that do not keep up are not left standing
    if (Math.abs(desk.playhead - drawn) > rate.value * Math.abs(playing.speed)) covered.value = false
    if (!covered.value) picture.value = frameUrl(props.timeline, desk.playhead, 480)
  },
  { immediate: true },
)

/** Shows the frame at the playhead: at once when it is held, else small at first. */
function show() {
  clearTimeout(settle)
  const frame = desk.playhead
  if (player?.holds(frame)) hold()
  if (drawHeld()) return
  // what was played last may be this very frame
  sharp.value = covered.value && drawn === frame
  if (!sharp.value) picture.value = frameUrl(props.timeline, frame, 480)
  // large pictures are decoded only where the playhead comes to rest
  settle = setTimeout(() => {
    if (!player?.playable) return loadSharp(frame)
    hold()
    // what the page cannot decode, the server may
    if (!sharp.value) settle = setTimeout(() => loadSharp(frame), patience)
  }, rest)
}

function loadSharp(frame: number) {
  const image = new Image()
  image.onload = () => {
    if (frame !== desk.playhead || playing.speed || drawn === frame) return
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
  () => playing.speed,
  (speed) => {
    cancelAnimationFrame(timer)
    audio.value?.pause()
    const mine = ++turn
    if (speed === 0) {
      playing.stretches = []
      player?.stop()
      if (!desk.alone) show()
      return
    }
    const from = desk.playhead
    clearTimeout(settle)
    if (player?.playable) player.play(from, speed)
    /** Seconds played so far. */
    const run = (seconds: () => number) => {
      const step = () => {
        const frame = from + Math.floor(seconds() * rate.value * speed)
        const last = playing.end - 1
        desk.go(Math.min(frame, last))
        draw(desk.playhead)
        if (frame >= last) playing.playedOne()
        else if (frame < 0) playing.speed = 0
        else timer = requestAnimationFrame(step)
      }
      if (mine === turn) timer = requestAnimationFrame(step)
    }
    const byClock = () => {
      const began = performance.now()
      run(() => (performance.now() - began) / 1000)
    }
    const sound = audio.value
    if (speed !== 1 || !sound || heardChannels(props.timeline).length === 0) {
      byClock()
      return
    }
    const end = playing.end
    const to = Math.min(end, from + Math.ceil(rate.value * 120))
    const heard = monitor.heardOf(hearable(props.timeline)).join(',')
    sound.src = `/api/timelines/${props.timeline.id}/sound?from=${from}&to=${to}&heard=${heard}`
    sound.play().then(
      () => run(() => sound.currentTime),
      // sound that cannot be played lets the pictures go on
      () => mine === turn && byClock(),
    )
    // it is fetched two minutes at a time
    sound.onended = () => {
      if (mine !== turn) return
      if (to === end) playing.playedOne()
      else playing.again()
    }
  },
)
/** Other channels are heard at once: what is played goes on from where it is. */
watch(
  () => monitor.heard,
  () => playing.speed === 1 && playing.again(),
)
onBeforeUnmount(() => {
  playing.stop()
  cancelAnimationFrame(timer)
  player?.close()
})

/** What the picture that stands here is not: as sharp as it is, or of the colour that it is. */
const tag = computed(() => {
  const without = shownWithout(colourOf(props.timeline.info.video[0]))
  return [...(without ? [`${without}, shown as coded`] : []), ...(sharp.value ? [] : ['preview'])].join(' · ')
})

const speedText = (speed: number) => `${speed < 0 ? '−' : ''}${Math.abs(speed)} ×`
</script>

<template>
  <div v-if="desk.alone" class="wave">
    <WaveView :timeline="timeline" :at="desk.playhead" :span="1" :region="desk.current" zooms />
  </div>
  <div v-else ref="pane" class="picture stage" :style="{ '--shape': shapeOf(timeline.info.video[0] ?? null) }">
    <p v-if="unseen" class="unseen small">Not decoded here</p>
    <img v-else :src="picture" :alt="`Frame ${desk.playhead}`" @load="uncover" @error="uncover" />
    <canvas v-show="covered" ref="canvas" class="played" />
    <slot />
    <span v-if="Math.abs(playing.speed) > 1 || playing.speed < 0" class="soft num">{{ speedText(playing.speed) }}</span>
    <span v-else-if="tag && !playing.speed && !unseen" class="soft num">{{ tag }}</span>
  </div>
  <audio ref="audio" />
</template>

<style scoped>
.picture {
  position: relative;
  aspect-ratio: 16 / 9;
  max-height: 46vh;
  align-self: center;
  width: 100%;
}
.wave {
  height: 30vh;
  flex: none;
}
.unseen {
  position: absolute;
  inset: auto 0 50%;
  text-align: center;
  color: #aaa;
}
.picture .played {
  position: absolute;
  inset: 0;
  margin: auto;
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
</style>
