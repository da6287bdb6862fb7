<script setup lang="ts">
const emit = defineEmits<{ close: [] }>()
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
    ],
  ],
  [
    'Play',
    [
      ['Space', 'play, pause'],
      ['J K L', 'shuttle back, stop, on; again: faster'],
      ['I O', 'mark in and out'],
      ['Esc', 'clear marks'],
    ],
  ],
  [
    'Split',
    [
      ['Enter', 'region of the marked range or the shot'],
      ['Shift+Enter', 'a region for each selected shot'],
      ['/', 'split at the playhead'],
      ['\\', 'join with the next'],
      ['T', 'tidy edges to the nearest cut'],
      ['C', 'chapter marker'],
      ['Delete', 'delete what is selected'],
      ['F2', 'rename'],
      ['Tab', 'in a name: the next name'],
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
  <Dialog :visible="true" modal header="All keys" :style="{ width: '820px' }" @update:visible="emit('close')">
    <div class="groups">
      <section v-for="[name, keys] in groups" :key="name">
        <h3>{{ name }}</h3>
        <div v-for="[k, what] in keys" :key="k" class="key">
          <kbd>{{ k }}</kbd><span>{{ what }}</span>
        </div>
      </section>
    </div>
  </Dialog>
</template>

<style scoped>
.groups {
  columns: 2;
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
  grid-template-columns: 150px 1fr;
  align-items: baseline;
  padding: 2px 0;
  font-size: 13.5px;
}
.key kbd {
  justify-self: start;
}
</style>
