<script setup lang="ts">
import { judgeFile } from '../../core/spec/judgefile'
import { isTyping } from '../lib/keys'
import { bytesText, plural } from '../lib/text'
import { useInside, type PartNode, type PartRow } from '../stores/inside'
import { useShelf } from '../stores/shelf'

/** One file taken apart: its parts in order, where they lie, what they say, and what a recipient's rules say of it. */
const inside = useInside()
const shelf = useShelf()
const route = useRoute()
const input = ref<HTMLInputElement | null>(null)
const over = ref(false)
const rowHeight = 25

/** Only files of this application are opened by their address. */
watch(
  () => route.query,
  ({ url, name }) => {
    if (typeof url === 'string' && url.startsWith('/api/'))
      void inside.take({ url: new URL(url, location.href).href, name: String(name ?? url) })
  },
  { immediate: true },
)
watch(
  () => shelf.specs,
  (specs) => {
    if (!specs.some((s) => s.id === inside.spec)) inside.spec = specs[0]?.id ?? ''
  },
  { immediate: true },
)
const results = computed(() => {
  const spec = shelf.specs.find((s) => s.id === inside.spec)
  return spec && inside.file ? judgeFile(spec, inside.file.readings) : []
})
function drop(e: DragEvent) {
  over.value = false
  const file = e.dataTransfer?.files[0]
  if (file) void inside.take(file)
}
function chosen(e: Event) {
  const input = e.target as HTMLInputElement
  const file = input.files?.[0]
  if (file) void inside.take(file)
  // the same one may be chosen again, when it was copied anew
  input.value = ''
}

const keyOf = (row: PartRow) => ('node' in row ? `${row.node.depth} ${row.node.part.offset}` : `more ${row.depth}`)
/** Names of 32 digits say less than what they stand for. */
const isKey = (name: string) => name.length > 24
const size = computed(() => inside.file?.size ?? 1)
const place = (n: PartNode) => ({
  top: `${(n.part.offset / size.value) * 100}%`,
  height: `max(3px, ${(n.part.size / size.value) * 100}%)`,
})

const list = ref<HTMLElement | null>(null)
/** By keyboard: up and down from part to part, right into one, left out of it. */
function key(e: KeyboardEvent) {
  const { hand, rows } = inside
  if (!hand || isTyping(e)) return
  const nodes = rows.flatMap((r) => ('node' in r ? [r.node] : []))
  const at = nodes.findIndex((n) => n.part === hand.part)
  const step = { ArrowDown: 1, ArrowUp: -1 }[e.key]
  if (step) {
    const next = nodes[at + step]
    if (next) void inside.choose(next)
  } else if (e.key === 'ArrowRight' && !hand.open) void inside.toggle(nodes[at]!)
  else if (e.key === 'ArrowLeft') {
    if (hand.open) void inside.toggle(nodes[at]!)
    else if (hand.above) void inside.choose(hand.above)
  } else return
  e.preventDefault()
  const row = rows.findIndex((r) => 'node' in r && r.node.part === inside.hand?.part)
  const box = list.value
  if (!box) return
  if (row * rowHeight < box.scrollTop) box.scrollTop = row * rowHeight
  if ((row + 1) * rowHeight > box.scrollTop + box.clientHeight) box.scrollTop = (row + 1) * rowHeight - box.clientHeight
}
onMounted(() => window.addEventListener('keydown', key))
onBeforeUnmount(() => window.removeEventListener('keydown', key))

/** Bytes in lines of sixteen: where they stand, their digits, their letters. */
const lines = computed(() => {
  const { look, hand } = inside
  if (!look || !hand) return []
  return Array.from({ length: Math.ceil(look.bytes.length / 16) }, (_, i) => {
    const bytes = [...look.bytes.subarray(i * 16, i * 16 + 16)]
    const digits = bytes.map((b) => b.toString(16).padStart(2, '0'))
    return {
      at: (hand.part.offset + i * 16).toString(16).padStart(8, '0'),
      digits: `${digits.slice(0, 8).join(' ')}  ${digits.slice(8).join(' ')}`.padEnd(48),
      letters: bytes.map((b) => (b > 31 && b < 127 ? String.fromCharCode(b) : '·')).join(''),
    }
  })
})
</script>

<template>
  <div
    class="inside"
    :class="{ over }"
    @dragover.prevent="over = true"
    @dragleave.self="over = false"
    @drop.prevent="drop"
  >
    <input ref="input" type="file" class="file" aria-label="A file of this machine" @change="chosen" />
    <div class="row bar">
      <Button
        size="small"
        :severity="inside.file ? 'secondary' : undefined"
        :label="inside.file ? 'Another file' : 'Choose a file'"
        @click="input?.click()"
      />
      <template v-if="inside.file">
        <strong class="num clip">{{ inside.file.name }}</strong>
        <span class="quiet small">{{ inside.file.kind }} · {{ bytesText(inside.file.size) }}</span>
        <span v-if="inside.faults" class="row small red"
          ><VerdictMark verdict="fail" :size="11" />{{ plural(inside.faults, 'fault') }} in what was opened</span
        >
      </template>
      <span v-else-if="inside.opening" class="quiet small">opening {{ inside.opening }} …</span>
      <span class="grow" />
      <label v-if="inside.file" class="row small quiet"
        >held against
        <select v-model="inside.spec" class="box">
          <option v-for="s in shelf.specs" :key="s.id" :value="s.id">{{ s.name }}</option>
        </select></label
      >
    </div>
    <ProblemNote v-if="inside.problem" :problem="inside.problem" class="wrong" />
    <div v-if="!inside.file" class="station">
      <template v-if="!inside.opening && !inside.problem">
        <h1>Look inside a file</h1>
        <p class="quiet">
          Drop a file anywhere on this page, whoever wrote it: its boxes, chunks, elements or keys are shown with where
          they lie and what they say. It is read here, by this browser; nothing of it is sent anywhere.
        </p>
      </template>
    </div>
    <div v-else class="parts">
      <div class="whole" role="presentation" title="The whole file, from its first byte above to its last below">
        <button
          v-for="n in inside.nodes"
          :key="n.part.offset"
          class="plain piece"
          :class="{ fault: n.part.fault }"
          :style="place(n as PartNode)"
          :title="n.part.label || n.part.name"
          tabindex="-1"
          @click="inside.choose(n as PartNode)"
        />
        <div v-if="inside.hand" class="piece here" :style="place(inside.hand as PartNode)" />
      </div>
      <div ref="list" class="tree" role="tree" aria-label="Parts of the file">
        <LongRows v-slot="{ item: row }" :items="inside.rows" :key-of="keyOf" :row-height="rowHeight" list>
          <div
            v-if="'node' in row"
            class="part row"
            role="treeitem"
            :aria-level="row.node.depth + 1"
            :aria-expanded="row.node.part.within === null ? undefined : row.node.open"
            :class="{ on: row.node.part === inside.hand?.part }"
            :style="{ paddingLeft: `${10 + row.node.depth * 17}px` }"
            :title="row.node.part.fault ?? row.node.part.name"
            @click="inside.choose(row.node)"
            @dblclick="inside.toggle(row.node)"
          >
            <button
              class="plain turn"
              :aria-label="`${row.node.open ? 'close' : 'open'} ${row.node.part.name}`"
              :disabled="row.node.part.within === null"
              @click.stop="inside.toggle(row.node)"
            >
              {{ row.node.part.within === null ? '' : row.node.open ? '▾' : '▸' }}
            </button>
            <VerdictMark v-if="row.node.part.fault" verdict="fail" :size="10" />
            <template v-if="isKey(row.node.part.name)">
              <span class="clip name">{{ row.node.part.label || 'a key that is not known here' }}</span>
              <span class="grow clip num small quiet">{{ row.node.part.name.slice(16) }}</span>
            </template>
            <template v-else>
              <span class="name num">{{ row.node.part.name }}</span>
              <span class="grow clip quiet">{{ row.node.part.label }}</span>
            </template>
            <span class="num small quiet at">{{ row.node.part.offset.toLocaleString('en-GB') }}</span>
            <span class="num small size">{{ bytesText(row.node.part.size) }}</span>
          </div>
          <button
            v-else
            class="plain more small"
            :style="{ paddingLeft: `${34 + row.depth * 17}px` }"
            @click="inside.attempt(() => inside.load(row.more))"
          >
            more …
          </button>
        </LongRows>
      </div>
      <aside class="look">
        <template v-if="inside.hand">
          <h2 class="what">{{ inside.hand.part.label || inside.hand.part.name }}</h2>
          <p class="num small quiet key">{{ inside.hand.part.name }}</p>
          <p class="small">
            byte <span class="num">{{ inside.hand.part.offset.toLocaleString('en-GB') }}</span>,
            <span class="num">{{ inside.hand.part.size.toLocaleString('en-GB') }}</span> bytes<template
              v-if="inside.hand.part.head"
              >, <span class="num">{{ inside.hand.part.head }}</span> of them its head</template
            >
          </p>
          <p v-if="inside.hand.part.fault" class="small red">{{ inside.hand.part.fault }}</p>
          <dl v-if="inside.look?.fields.length">
            <template v-for="(f, i) in inside.look.fields" :key="i">
              <dt>{{ f.name }}</dt>
              <dd class="num">{{ f.value }}</dd>
            </template>
          </dl>
          <table class="bytes num" aria-label="First bytes">
            <tbody>
              <tr v-for="l in lines.slice(0, 12)" :key="l.at">
                <td class="quiet">{{ l.at }}</td>
                <td>{{ l.digits }}</td>
                <td class="quiet">{{ l.letters }}</td>
              </tr>
            </tbody>
          </table>
        </template>
        <h2 class="rules">By what its heads say</h2>
        <p class="small quiet">Nothing is decoded here. Received measures pictures and sound as well.</p>
        <ProblemNote v-for="p in inside.file.problems" :key="p.code" :problem="p" />
        <FileVerdicts :results="results" />
      </aside>
    </div>
  </div>
</template>

<style scoped>
.inside {
  height: 100%;
  display: flex;
  flex-direction: column;
}
.inside.over {
  box-shadow: inset 0 0 0 3px var(--crane);
}
.file {
  display: none;
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
.wrong {
  margin: 10px 16px;
}
.parts {
  flex: 1;
  min-height: 0;
  display: flex;
}
.whole {
  position: relative;
  width: 30px;
  flex: none;
  margin: 8px 0 8px 12px;
  background: var(--surface);
  border: 1px solid var(--line);
}
.piece {
  position: absolute;
  left: 0;
  right: 0;
  background: color-mix(in srgb, var(--quiet) 26%, transparent);
  border-bottom: 1px solid var(--ground);
}
.piece.fault {
  background: color-mix(in srgb, var(--red) 60%, transparent);
}
.piece.here {
  background: var(--crane);
  pointer-events: none;
}
.tree {
  flex: 1;
  min-width: 0;
  overflow: auto;
  padding: 8px 0;
}
.part {
  height: 25px;
  gap: 7px;
  padding-right: 14px;
  font-size: 13px;
  cursor: default;
}
.part.on {
  background: var(--raised);
  box-shadow: inset 3px 0 0 var(--crane);
}
.turn {
  width: 16px;
  flex: none;
  color: var(--quiet);
}
.name {
  flex: none;
}
.at {
  flex: none;
  width: 118px;
  text-align: right;
}
.size {
  flex: none;
  width: 76px;
  text-align: right;
}
.more {
  display: block;
  height: 25px;
  color: var(--crane);
}
.look {
  width: 486px;
  flex: none;
  border-left: 1px solid var(--line);
  background: var(--surface);
  padding: 14px 18px;
  overflow: auto;
}
.what {
  font-size: 16px;
}
.key {
  overflow-wrap: anywhere;
}
.rules {
  font-size: 15px;
  margin-top: 18px;
}
dl {
  display: grid;
  grid-template-columns: 142px 1fr;
  gap: 2px 10px;
  margin: 10px 0;
  font-size: 13px;
}
dt {
  color: var(--quiet);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
  font-size: 12.5px;
}
.bytes {
  font-size: 10.5px;
  margin-top: 8px;
  border-collapse: collapse;
}
.bytes td {
  padding: 0 9px 0 0;
  white-space: pre;
}
</style>
