<script setup lang="ts">
import type { ReceivedFile } from '../../contract/received'
import { brandOf } from '../../core/container/registry'
import { isTyping } from '../lib/keys'
import { bytesText, plural } from '../lib/text'
import { useReceived } from '../stores/received'
import { useShelf } from '../stores/shelf'

/** Files that came from elsewhere, all of a folder at once, held against a specification. */
const received = useReceived()
const shelf = useShelf()
const picking = ref(false)
const left = ref(false)

watch(
  () => shelf.specs,
  (specs) => {
    const id = specs.some((s) => s.id === received.spec) ? received.spec : (specs[0]?.id ?? '')
    if (id) void received.hold(id)
  },
  { immediate: true },
)
onMounted(async () => {
  await received.begin()
  await received.follow(() => left.value)
})
onBeforeUnmount(() => (left.value = true))

const counts = computed(() => {
  const unreadable = received.files.filter((f) => f.state === 'unreadable').length
  const of = (v: ReceivedFile['verdict']) => received.files.filter((f) => f.verdict === v).length
  const absent = received.files.filter((f) => f.state === 'absent').length
  return {
    pass: of('pass'),
    caution: of('caution'),
    fail: of('fail'),
    unmeasured: of('unmeasured'),
    unreadable,
    absent,
  }
})
/** The path of a file below the folder that was taken. */
const below = (f: ReceivedFile) => {
  const top = received.folder?.path ?? ''
  return top && f.path.startsWith(`${top}/`) ? f.path.slice(top.length + 1) : f.path
}
const said = (f: ReceivedFile) => {
  if (f.problem) return f.problem.message
  if (f.state === 'unmeasured') return 'not measured yet'
  if (f.state === 'waiting')
    return f.share === null ? 'waits for a worker' : `measuring, ${Math.floor(f.share * 100)} %`
  return f.misses.length ? `${f.misses.length} not met: ${f.misses.join(' ')}` : 'meets every rule'
}
/** Where the structure of a file is looked at. */
const lookInto = (f: ReceivedFile) => ({
  path: '/inside',
  query: {
    url: `/api/received/bytes?${new URLSearchParams({ root: received.folder!.root, path: f.path }).toString()}`,
    name: f.path.split('/').at(-1),
  },
})
const list = ref<HTMLElement | null>(null)
function key(e: KeyboardEvent) {
  const by = { ArrowDown: 1, ArrowUp: -1 }[e.key]
  if (!by || isTyping(e) || picking.value) return
  e.preventDefault()
  const at = received.files.findIndex((f) => f.path === received.path)
  const next = received.files[Math.max(0, Math.min(received.files.length - 1, at + by))]
  if (next) void received.choose(next.path)
  void nextTick(() => list.value?.querySelector('.hand')?.scrollIntoView({ block: 'nearest' }))
}
onMounted(() => window.addEventListener('keydown', key))
onBeforeUnmount(() => window.removeEventListener('keydown', key))
</script>

<template>
  <div class="received">
    <div class="files">
      <div class="row bar">
        <Button
          size="small"
          :severity="received.folder ? 'secondary' : undefined"
          :label="received.folder ? 'Another folder' : 'Choose a folder'"
          @click="picking = true"
        />
        <span v-if="received.folder" class="num small clip place"
          >{{ received.folder.root }}/{{ received.folder.path }}</span
        >
        <label
          v-if="received.folder"
          class="row small quiet"
          title="Whatever comes into this folder is measured, whether this page is open or not"
          ><input
            type="checkbox"
            :checked="received.watching"
            @change="received.watch(($event.target as HTMLInputElement).checked)"
          />
          watch it<template v-if="received.watched && !received.watching"
            >{{ ' ' }}instead of
            <span class="num">{{ received.watched.root }}/{{ received.watched.path }}</span></template
          ></label
        >
        <span class="grow" />
        <label class="row small quiet"
          >held against
          <select
            class="box"
            :value="received.spec"
            @change="received.hold(($event.target as HTMLSelectElement).value)"
          >
            <option v-for="s in shelf.specs" :key="s.id" :value="s.id">{{ s.name }}</option>
          </select></label
        >
      </div>
      <div v-if="received.files.length" class="row bar counts">
        <span class="row"><VerdictMark verdict="pass" /> {{ counts.pass }} pass</span
        ><span class="row"><VerdictMark verdict="caution" /> {{ plural(counts.caution, 'caution') }}</span
        ><span class="row"><VerdictMark verdict="fail" /> {{ plural(counts.fail, 'fail') }}</span
        ><span class="row"><VerdictMark verdict="unmeasured" /> {{ counts.unmeasured }} not all measured</span
        ><span v-if="counts.unreadable" class="row"
          ><VerdictMark verdict="fail" /> {{ counts.unreadable }} cannot be read</span
        ><span v-if="counts.absent" class="row"><VerdictMark verdict="fail" /> {{ counts.absent }} not here</span
        ><span class="grow" /><span v-if="received.waiting" class="quiet">{{
          `${plural(received.waiting, 'file')} being measured`
        }}</span>
        <button v-if="received.unmeasured" class="plain" @click="received.take(received.folder!)">
          measure {{ plural(received.unmeasured, 'new file') }}
        </button>
      </div>
      <div v-if="!received.folder" class="station">
        <h1>Files from elsewhere</h1>
        <p class="quiet">
          Take a folder of deliveries that somebody else made: every file in it is measured here, and every rule of a
          recipient held against it. Nothing is written into the folder.
        </p>
      </div>
      <p v-else-if="!received.files.length && !received.loading" class="quiet none">
        There are no media files in this folder.
      </p>
      <div v-else ref="list" class="list">
        <button
          v-for="f in received.files"
          :key="f.path"
          class="plain file"
          :class="{ hand: f.path === received.path }"
          @click="received.choose(f.path)"
        >
          <VerdictMark v-if="f.verdict" :verdict="f.verdict" :size="12" />
          <VerdictMark v-else :verdict="f.problem ? 'fail' : 'later'" :size="12" />
          <span class="grow of"
            ><span class="num clip">{{ below(f) }}</span
            ><span class="small quiet clip">{{ said(f) }}</span></span
          >
          <span v-if="f.size" class="num small quiet">{{ bytesText(f.size) }}</span>
        </button>
      </div>
    </div>
    <aside class="detail">
      <template v-if="received.chosen">
        <h2 class="name num">{{ received.chosen.path.split('/').at(-1) }}</h2>
        <p v-if="received.chosen.state !== 'absent' && brandOf(received.chosen.path)">
          <NuxtLink class="small" :to="lookInto(received.chosen)">Look inside</NuxtLink>
        </p>
        <ProblemNote v-if="received.chosen.problem" :problem="received.chosen.problem" />
        <p v-else-if="!received.results.length" class="quiet">{{ said(received.chosen) }}</p>
        <FileVerdicts :results="received.results" />
      </template>
      <p v-else class="quiet">Select a file to read what every rule says of it.</p>
    </aside>
    <FilePicker
      v-if="picking"
      title="A folder of files from elsewhere"
      folders
      :accept="() => false"
      @close="picking = false"
      @choose="((picking = false), received.take($event))"
    />
  </div>
</template>

<style scoped>
.received {
  height: 100%;
  display: flex;
}
.files {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
}
.bar {
  flex: none;
  gap: 14px;
  padding: 9px 16px;
  border-bottom: 1px solid var(--line);
}
.bar .row {
  gap: 6px;
}
.counts {
  gap: 18px;
  font-size: 13px;
}
.list {
  flex: 1;
  overflow: auto;
}
.file {
  display: flex;
  align-items: center;
  gap: 11px;
  width: 100%;
  padding: 7px 16px;
  text-align: left;
  border-bottom: 1px solid color-mix(in srgb, var(--line) 45%, transparent);
  content-visibility: auto;
  contain-intrinsic-height: 53px;
}
.file.hand {
  background: var(--raised);
  box-shadow: inset 3px 0 0 var(--crane);
}
.of {
  min-width: 0;
  display: flex;
  flex-direction: column;
}
.none {
  padding: 26px 18px;
}
.detail {
  width: 470px;
  flex: none;
  border-left: 1px solid var(--line);
  background: var(--surface);
  padding: 16px 18px;
  overflow: auto;
}
.name {
  overflow-wrap: anywhere;
  font-size: 15px;
  margin-bottom: 9px;
}
</style>
