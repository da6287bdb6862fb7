<script setup lang="ts">
import { flagKinds } from '../../lib/flags'

const emit = defineEmits<{ close: [] }>()
/** What is drawn on the strip beside flags. */
const signs: [string, string][] = [
  ['ribbon', 'short-term loudness, wider is louder; ochre where it is far over the outlet’s target'],
  ['hairlines', 'what the first outlet asks for'],
  ['dashes', 'a cut found in the pictures that the list does not have'],
  ['hatching', 'media that is missing, or not as it should be'],
  ['bracket', 'a region; its line leads to its row'],
  ['▸', 'a chapter marker'],
  ['ends ✓ in a row', 'the pictures at its ends were looked at, and it has not changed since'],
  ['✓ ≠ in a row', 'delivered, and unchanged or changed since; a click leads to the file'],
  ['left edge', 'the whole timeline: regions, faults, loudness, and what is in view; drag there to go'],
]
const groups: [string, [string, string][]][] = [
  [
    'Move',
    [
      ['↓ ↑', 'one frame; of sound alone a hundredth of a second'],
      ['Alt ↓ ↑', 'one sample of sound alone'],
      ['Shift ↓ ↑', 'one second'],
      ['PageDown PageUp', 'next and previous cut'],
      ['Home End', 'start and end'],
      ['Wheel', 'scroll time'],
      ['Ctrl+Wheel, + −', 'zoom'],
      ['F R M', 'see the whole, the region, what is marked'],
      ['1 2 3', 'regions beside the strip, as a table, by their edges'],
    ],
  ],
  [
    'Play',
    [
      ['Space', 'play, pause'],
      ['J K L', 'shuttle back, stop, on; again: faster'],
      ['A', 'a second before and after the nearest edge'],
      ['P Shift+P', 'the region; regions one after the other'],
      ['I O', 'mark in and out; O again ends before a cut'],
      ['Esc', 'clear marks'],
      ['H', 'hear the next two channels, or a whole mix'],
    ],
  ],
  [
    'Look',
    [
      ['G', 'safe areas (EBU R 95)'],
      ['W', 'waveform, with the limits of EBU R 103'],
      ['D', 'hold the picture against this frame; again: no longer'],
    ],
  ],
  [
    'Split',
    [
      ['Enter', 'region of the marked range or the shot'],
      ['Shift+Enter', 'a region for each selected shot'],
      ['S', 'ways to split, looked at before they are done'],
      ['/', 'split at the playhead'],
      ['\\', 'join with the next'],
      ['Ctrl ← →', 'slip what is selected by a frame, its length kept; with Shift by a second'],
      ['T', 'tidy edges to the nearest cut'],
      ['C', 'chapter marker'],
      ['Delete', 'delete what is selected'],
      ['F2', 'rename'],
      ['Tab', 'in a name: the next name'],
    ],
  ],
  [
    'Table (2)',
    [
      ['↓ ↑', 'the next row, the one before; with Shift all up to it'],
      ['Enter', 'type its name; in a field: the same of the next row'],
      ['/', 'filter'],
    ],
  ],
  [
    'Edges (3)',
    [
      ['← →', 'the first frame, a frame earlier or later'],
      ['Shift ← →', 'the last frame'],
      ['Enter', 'right: on to the next'],
      ['Backspace', 'not right after all'],
    ],
  ],
  [
    'Select',
    [
      ['Click', 'one'],
      ['Shift+Click', 'up to here'],
      ['Ctrl+Click', 'add or take away'],
      ['Ctrl+A', 'all regions'],
      ['Alt while dragging', 'let go of the cuts'],
      ['Shift while dragging an edge', 'all edges that lie there together'],
    ],
  ],
  [
    'Everywhere',
    [
      ['Ctrl+Z', 'undo'],
      ['Ctrl+Shift+Z', 'redo'],
      ['Ctrl+K', 'find anything'],
      ['?', 'this sheet'],
    ],
  ],
]
</script>

<template>
  <Dialog
    :visible="true"
    modal
    header="All keys, and what the strip shows"
    :style="{ width: 'min(1180px, 96vw)' }"
    @update:visible="emit('close')"
  >
    <div class="groups">
      <section v-for="[name, keys] in groups" :key="name">
        <h3>{{ name }}</h3>
        <div v-for="[k, what] in keys" :key="k" class="key">
          <kbd>{{ k }}</kbd><span>{{ what }}</span>
        </div>
      </section>
      <section>
        <h3>On the strip</h3>
        <div v-for="f in flagKinds" :key="f.name" class="key">
          <span class="flag" :style="{ background: `var(--${f.colour})` }">{{ f.letter }}</span><span>{{
            f.name
          }}</span>
        </div>
        <div v-for="[sign, what] in signs" :key="sign" class="key">
          <span class="quiet">{{ sign }}</span><span>{{ what }}</span>
        </div>
      </section>
    </div>
  </Dialog>
</template>

<style scoped>
.groups {
  columns: 3;
  column-gap: 32px;
}
section {
  break-inside: avoid;
  margin-bottom: 16px;
}
h3 {
  margin-bottom: 6px;
}
.key {
  display: grid;
  grid-template-columns: 146px 1fr;
  align-items: baseline;
  padding: 2px 0;
  font-size: 13.5px;
}
.flag {
  justify-self: start;
  width: 14px;
  border-radius: 2px;
  text-align: center;
  font-size: 10px;
  font-weight: 700;
  color: var(--ground);
}
.key kbd {
  justify-self: start;
}
</style>
