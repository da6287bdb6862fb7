<script setup lang="ts">
import type { FilePath } from '../../../core/media/filepath'
import { File, Folder } from '@lucide/vue'
import { api } from '../../lib/api'
import { bytesText } from '../../lib/text'
import { useProblems } from '../../stores/problems'
import type { Entry, StorageRoot } from '../../../contract/files'

/** Chooses a file (or a folder) below a storage root. */
const props = defineProps<{
  title: string
  folders?: boolean
  accept?: (name: string) => boolean
  at?: FilePath
}>()
const emit = defineEmits<{ close: []; choose: [place: FilePath] }>()
const problems = useProblems()
const roots = ref<readonly StorageRoot[]>([])
const root = ref('')
const path = ref('')
const entries = ref<readonly Entry[]>([])

/** Counts what was opened: an answer that comes after that of a later one is not shown. */
let turn = 0
/** A folder is on its way: until it is there no folder is taken, or it would be the one before. */
const opening = ref(true)
async function open(r: string, p: string) {
  const mine = ++turn
  opening.value = true
  await problems.attempt(async () => {
    const answer = await api('GET files', { query: { root: r, path: p } })
    if (mine !== turn) return
    entries.value = answer.entries
    root.value = r
    path.value = p
  })
  if (mine === turn) opening.value = false
}
onMounted(() =>
  problems.attempt(async () => {
    roots.value = (await api('GET files')).roots
    if (props.at) await open(props.at.root, props.at.path.split('/').slice(0, -1).join('/'))
    else if (roots.value[0]) await open(roots.value[0].name, '')
  }),
)
const crumbs = computed(() =>
  path.value
    .split('/')
    .filter(Boolean)
    .map((name, i, all) => ({ name, path: all.slice(0, i + 1).join('/') })),
)
const usable = (e: Entry) => e.folder || !props.accept || props.accept(e.name)
</script>

<template>
  <Dialog :visible="true" modal :header="title" :style="{ width: '640px' }" @update:visible="emit('close')">
    <div class="row crumbs">
      <select
        v-if="roots.length > 1"
        :value="root"
        aria-label="Storage root"
        @change="open(($event.target as HTMLSelectElement).value, '')"
      >
        <option v-for="r in roots" :key="r.name">{{ r.name }}</option>
      </select>
      <button v-else class="plain" @click="open(root, '')">{{ root }}</button>
      <template v-for="c in crumbs" :key="c.path"
        ><span class="quiet">/</span><button class="plain" @click="open(root, c.path)">{{ c.name }}</button></template
      >
      <span class="grow" /><span class="quiet small"
        >{{ bytesText(roots.find((r) => r.name === root)?.free ?? 0) }} free</span
      >
    </div>
    <div class="list panel">
      <button
        v-for="e in entries"
        :key="e.path"
        class="plain entry"
        :class="{ here: e.path === at?.path }"
        :disabled="!usable(e)"
        @click="e.folder ? open(root, e.path) : emit('choose', { root, path: e.path })"
      >
        <Folder v-if="e.folder" :size="15" /><File v-else :size="15" />
        <span class="grow clip">{{ e.name }}</span>
        <span v-if="!e.folder" class="num quiet small">{{ bytesText(e.size) }}</span>
      </button>
      <p v-if="!entries.length" class="quiet entry">This folder is empty.</p>
    </div>
    <div v-if="folders" class="row" style="justify-content: end; margin-top: 10px">
      <Button label="Use this folder" :disabled="opening" @click="emit('choose', { root, path })" />
    </div>
  </Dialog>
</template>

<style scoped>
.crumbs {
  margin-bottom: 8px;
  gap: 5px;
}
.list {
  max-height: 380px;
  overflow: auto;
}
.entry {
  display: flex;
  align-items: center;
  gap: 9px;
  width: 100%;
  padding: 5px 10px;
  border-bottom: 1px solid var(--line);
}
.entry.here {
  background: var(--raised);
  color: var(--crane);
}
.entry:disabled {
  opacity: 0.4;
  cursor: default;
}
</style>
