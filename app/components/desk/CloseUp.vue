<script setup lang="ts">
import type { ShownTimeline } from '../../../contract/timelines'
import { unitOf } from '../../../core/time/rate'
import { formatLength, formatTimecode } from '../../../core/time/timecode'
import { becameShort, becameText } from '../../lib/became'
import { sizeText } from '../../lib/text'
import { useEditor } from '../../stores/editor'
import { useDeliverables } from '../../stores/deliverables'
import { useMonitor } from '../../stores/monitor'
import { usePlaying } from '../../stores/playing'
import { useShelf } from '../../stores/shelf'

/** What is at the playhead; transport; the selected region's ends, papers and files. */
defineProps<{ timeline: ShownTimeline }>()
const desk = useEditor()
const monitor = useMonitor()
const playing = usePlaying()
const deliverables = useDeliverables()
const shelf = useShelf()
const files = computed(() => {
  // read once: this runs over all deliverables with every move of an edge
  const id = desk.current?.id
  return deliverables.ofTimeline.filter((d) => d.regionId === id)
})
const outletName = (id: string) => shelf.outlets.find((o) => o.id === id)?.name ?? id
const fileName = (p: string) => p.split('/').at(-1)!
</script>

<template>
  <section class="close" aria-label="Close-up">
    <MonitorView :timeline="timeline" />
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
        <button title="Shuttle back (J)" @click="playing.shuttle(-1)">◂◂</button>
        <button title="Play or pause (Space)" :class="{ on: playing.speed !== 0 }" @click="playing.toggle()">
          {{ playing.speed ? '❚❚' : '▸' }}
        </button>
        <button title="Shuttle on (L)" @click="playing.shuttle(1)">▸▸</button>
        <button title="Mark in (I)" @click="desk.mark('in')">in <kbd>I</kbd></button>
        <button title="Mark out (O)" @click="desk.mark('out')">out <kbd>O</kbd></button>
        <button title="Split the region here (/)" @click="desk.splitHere()">split <kbd>/</kbd></button>
        <button title="Chapter marker (C)" @click="desk.chapter()">chapter <kbd>C</kbd></button>
      </span>
    </div>
    <div class="marked num small">
      <span class="quiet">{{ unitOf(timeline.model.rate) }} {{ desk.playhead }}</span>
      <span class="plays">
        <button class="plain quiet" title="A second before and after the nearest edge (A)" @click="playing.around()">
          ▸ edge <kbd>A</kbd>
        </button>
        <button
          class="plain quiet"
          :disabled="!desk.current"
          title="The selected region (P)"
          @click="playing.regions(false)"
        >
          ▸ region <kbd>P</kbd>
        </button>
        <button
          class="plain quiet"
          :disabled="!desk.regions.length"
          title="The selected regions, or all, one after the other (Shift+P)"
          @click="playing.regions(true)"
        >
          ▸ regions <kbd>⇧P</kbd>
        </button>
      </span>
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
    <button v-if="desk.overCut" class="plain small over" @click="desk.markOut! -= 1">
      The last frame marked is the first of another shot. <kbd>O</kbd> again, or a click here, ends before the cut.
    </button>
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
          <span class="num quiet">{{ sizeText(d) }}</span>
          <NuxtLink
            v-if="d.became"
            :to="{ path: '/handover', query: { item: d.became.id } }"
            class="small"
            :title="`${becameText(d)} ${d.became.path}`"
            >{{ becameShort(d) }}</NuxtLink
          >
          <button
            v-if="d.became && d.pictures"
            class="plain small quiet"
            :title="`Hold the picture against ${d.became.path}`"
            @click="monitor.against = { kind: 'file', id: d.became.id, name: fileName(d.became.path) }"
          >
            compare
          </button>
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
.plays {
  margin-left: auto;
  order: 9;
  display: flex;
  gap: 12px;
}
.over {
  color: var(--ochre);
  text-align: left;
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
