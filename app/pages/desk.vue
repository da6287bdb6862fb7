<script setup lang="ts">
import { useEventListener, useResizeObserver } from '@vueuse/core'
import { askedOf } from '../lib/asked'
import { hearable, heardChannels } from '../lib/hearing'
import { isTyping } from '../lib/keys'
import { unseenText } from '../lib/seeing'
import { useEditor } from '../stores/editor'
import { useSplit } from '../stores/split'
import { useMonitor } from '../stores/monitor'
import { usePlaying } from '../stores/playing'
import { useSplitting } from '../stores/splitting'
import { useTimelines } from '../stores/timelines'
import { deskViews, useView } from '../stores/view'

const timelines = useTimelines()
const desk = useEditor()
const split = useSplit()
const splitting = useSplitting()
const view = useView()
const monitor = useMonitor()
const playing = usePlaying()
const rowHeight = 92
const head = 38
const scroll = ref(0)
const area = ref<HTMLElement>()
const height = ref(600)

/** The loudness that the first outlet of this timeline asks for: the hairline on the ribbon. */
const target = computed(() => {
  const e = askedOf('loudness')
  return e && 'target' in e ? e.target : null
})
const analysing = computed(() => {
  const t = timelines.current
  const a = t?.analysis
  if (!t || !a) return null
  const unseen = unseenText(t)
  if ((a.pictures || desk.alone || unseen) && (a.sound || heardChannels(t).length === 0))
    return unseen && { text: unseen, share: 0 }
  const own = timelines.background.filter((b) => b.content === t.fingerprint.content)
  if (own.some((b) => b.failed))
    return { text: 'The background pass failed; stills are made as they are needed.', share: 0 }
  if (desk.alone || unseen) return { text: 'listening to it', share: a.progress }
  const left = own.reduce((n, b) => n + (b.kind === 'analyse-segment' ? b.left : 0), 0)
  return { text: 'looking through pictures and sound', share: 1 - left / Math.max(1, t.model.length) }
})

/** Keys that do the same however the split is shown; the others are those of the strip. */
const everywhere = new Set(['Delete', ...deskViews.map((v) => v.key)])

function key(e: KeyboardEvent) {
  if (isTyping(e)) return
  const ctrl = e.ctrlKey || e.metaKey
  const step = e.shiftKey ? desk.second : e.altKey ? 1 : desk.nudge
  const actions: Record<string, () => void> = {
    ArrowDown: () => desk.go(desk.playhead + step),
    ArrowUp: () => desk.go(desk.playhead - step),
    PageDown: () => desk.goToCut(1),
    PageUp: () => desk.goToCut(-1),
    Home: () => desk.go(0),
    End: () => desk.go(desk.length - 1),
    ' ': () => playing.toggle(),
    j: () => playing.shuttle(-1),
    k: () => playing.stop(),
    l: () => playing.shuttle(1),
    i: () => desk.mark('in'),
    o: () => desk.mark('out'),
    Enter: () => (splitting.open ? splitting.make() : e.shiftKey ? desk.makeFromShots() : desk.makeRegion()),
    s: () => splitting.toggle(),
    a: () => playing.around(),
    p: () => playing.regions(e.shiftKey),
    '/': () => desk.splitHere(),
    '\\': () => desk.join(),
    t: () => desk.tidy(),
    c: () => desk.chapter(),
    Delete: () => desk.remove(),
    Backspace: () => desk.remove(),
    Escape: () => (splitting.open ? splitting.toggle() : desk.clearMarks()),
    F2: () => (desk.naming = desk.current?.id ?? null),
    '+': () => view.zoomAbout(1.3, desk.playhead),
    '-': () => view.zoomAbout(1 / 1.3, desk.playhead),
    ...Object.fromEntries(deskViews.map((v) => [v.key, () => (view.shows = v.name)])),
    f: () => view.fit(),
    r: () => desk.current && view.show(desk.current),
    m: () => desk.marked && view.show(desk.marked),
    g: () => monitor.toggle('safe'),
    w: () => monitor.toggle('waveform'),
    d: () => monitor.compare(desk.playhead),
    h: () => monitor.hearNext(hearable(timelines.current!)),
  }
  const name = e.key.length === 1 ? e.key.toLowerCase() : e.key
  if (ctrl) {
    if (name === 'z') {
      e.preventDefault()
      if (e.shiftKey) split.redo()
      else split.undo()
    } else if (name === 'a') {
      e.preventDefault()
      desk.selected = desk.regions.map((r) => r.id)
    } else if ((name === 'ArrowLeft' || name === 'ArrowRight') && view.shows !== 'table') {
      e.preventDefault()
      desk.slip((name === 'ArrowLeft' ? -1 : 1) * (e.shiftKey ? desk.second : desk.nudge))
    }
    return
  }
  const action = view.shows === 'strip' || everywhere.has(name) ? actions[name] : undefined
  if (!action) return
  e.preventDefault()
  action()
  desk.keepPlace()
}
useEventListener(window, 'keydown', key)
useResizeObserver(area, ([x]) => (height.value = x!.contentRect.height))
</script>

<template>
  <div class="desk">
    <div v-if="!timelines.current" class="station">
      <h1>Nothing on the desk</h1>
      <p class="quiet">Bring in a timeline first. <NuxtLink to="/timelines">Go to Timelines</NuxtLink></p>
    </div>
    <EdgeSheet v-else-if="view.shows === 'edges'" class="area" :timeline="timelines.current" />
    <RegionTable v-else-if="view.shows === 'table'" class="area" :timeline="timelines.current" />
    <div v-else ref="area" class="area">
      <StripCanvas :key="timelines.current.id" :timeline="timelines.current" :target="target" />
      <MooringLines :height="height" :row-height="rowHeight" :scroll="scroll" :head="head" />
      <RegionRows :timeline="timelines.current" :row-height="rowHeight" :head="head" @scroll="scroll = $event" />
      <SplitPanel v-if="splitting.open" />
      <CloseUp v-else :timeline="timelines.current" />
      <div v-if="analysing" class="pass small">
        <span>{{ analysing.text }}</span><span v-if="analysing.share" class="num share"
          >{{ Math.round(analysing.share * 100) }} %</span
        >
      </div>
    </div>
    <ClashSheet v-if="timelines.current && split.clashes.length" :timeline="timelines.current" />
    <AuditLine v-if="timelines.current" />
  </div>
</template>

<style scoped>
.desk {
  height: 100%;
  display: flex;
  flex-direction: column;
}
.area {
  flex: 1;
  min-height: 0;
  display: flex;
  position: relative;
}
.pass {
  position: absolute;
  left: 100px;
  bottom: 8px;
  background: var(--raised);
  border: 1px solid var(--line);
  padding: 2px 10px;
  border-radius: 2px;
  color: var(--quiet);
  pointer-events: none;
  z-index: 3;
}
.share {
  margin-left: 8px;
}
</style>
