<script setup lang="ts">
import { splitMakers } from '../../../core/split/makers/registry'
import { readLines, type LineOptions } from '../../../core/split/lines'
import { regionNameFields } from '../../../core/split/naming'
import { formatLength, formatTimecode } from '../../../core/time/timecode'
import { plural } from '../../lib/text'
import { useEditor } from '../../stores/editor'
import { useSplitting, type Proposed } from '../../stores/splitting'
import { useTimelines } from '../../stores/timelines'

/** Ways to split, each with what it would make before it is done; the strip shows the same. */
const desk = useEditor()
const splitting = useSplitting()
const current = computed(() => useTimelines().current)
const ways = ref<HTMLElement>()
const label = (n: number) => formatTimecode(desk.model!.start + n, desk.model!)
const there = computed(() => splitting.proposals.filter((p) => p.there).length)
const what = computed(() => {
  if (splitting.made.problem || splitting.wrong) return 'Nothing to make'
  const { length } = splitting.taken
  return length ? `Make ${plural(length, 'region')}` : 'Nothing to make'
})

const read = computed(() => {
  const { text, from, end } = splitting.set as unknown as LineOptions & { readonly text?: string }
  return text === undefined || !from ? [] : readLines(text, desk.model!, { from, end })
})
async function open(files: FileList | null) {
  const [f] = files ?? []
  if (f) splitting.list = { text: await f.text(), fileName: f.name }
}

function focusWay() {
  void nextTick(() => ways.value?.querySelector<HTMLElement>('[aria-checked=true]')?.focus())
}
function go(by: 1 | -1) {
  const at = splitMakers.findIndex((m) => m.name === splitting.way)
  splitting.choose(splitMakers[(at + by + splitMakers.length) % splitMakers.length]!.name)
  focusWay()
}
function key(e: KeyboardEvent) {
  if (e.ctrlKey && e.key !== 'Enter') return
  e.stopPropagation()
  const { tagName } = e.target as HTMLElement
  if (e.key === 'Escape') splitting.toggle()
  // Enter takes what is typed into a field first, and opens a list
  else if (e.key === 'Enter' && (e.ctrlKey || (tagName !== 'SELECT' && !(e.target as HTMLElement).closest('.own')))) {
    e.preventDefault()
    void nextTick(() => splitting.make())
  }
}
/** The proposal that is looked at closely. */
const at = ref('')
const seen = computed(() => splitting.proposals.find((p) => `${p.in}-${p.out}` === at.value) ?? null)
function look(p: Proposed) {
  desk.go(p.in)
  at.value = `${p.in}-${p.out}`
}
onMounted(focusWay)
</script>

<template>
  <section class="panel-of" aria-label="Ways to split" @keydown="key">
    <div class="row spread">
      <h3>Ways to split</h3>
      <button class="plain quiet own" title="Leave it (Esc)" @click="splitting.toggle()">✕</button>
    </div>
    <div class="choose">
      <div ref="ways" class="picks" role="radiogroup" aria-label="Way to split">
        <button
          v-for="m in splitMakers"
          :key="m.name"
          role="radio"
          :aria-checked="m.name === splitting.way"
          :tabindex="m.name === splitting.way ? 0 : -1"
          @click="splitting.choose(m.name)"
          @keydown.down.prevent="go(1)"
          @keydown.up.prevent="go(-1)"
        >
          {{ m.label }}
        </button>
      </div>
      <div class="what">
        <p class="small quiet hint">{{ splitting.maker.hint }}</p>
        <SettingFields
          :settings="splitting.maker.settings ?? {}"
          :values="splitting.set"
          :wrong="splitting.wrong"
          @type="splitting.type"
        >
          <template #lines="{ field, setting }">
            <LinesField
              :text="String(splitting.set[field])"
              :read="read"
              :placeholder="setting.hint ?? ''"
              :label="setting.label"
              @change="splitting.type(field, $event)"
            />
          </template>
        </SettingFields>
        <label v-if="splitting.way === 'version'" class="row small quiet"
          >Of
          <select
            class="own of box"
            :value="splitting.older?.id ?? ''"
            @change="splitting.olderId = ($event.target as HTMLSelectElement).value"
          >
            <option v-for="t in splitting.olders" :key="t.id" :value="t.id">
              {{ t.name }}, {{ plural(t.split.regions.length, 'region') }}
            </option>
            <option v-if="!splitting.olders.length" value="">no other timeline has regions</option>
          </select></label
        >
        <label v-if="splitting.way === 'file'" class="row small quiet"
          >File <input type="file" @change="open(($event.target as HTMLInputElement).files)"
        /></label>
        <div class="own names">
          <span class="quiet small">Names</span>
          <PatternEditor
            :key="splitting.way"
            :pattern="splitting.pattern"
            :fields="regionNameFields"
            live
            @change="splitting.patterns[splitting.way] = $event"
            @keydown.enter.prevent="splitting.make()"
          />
        </div>
      </div>
    </div>
    <ComparingPictures v-if="splitting.compared && !splitting.same" :key="splitting.compared.of" />
    <ProblemNote v-else-if="splitting.made.problem" :problem="splitting.made.problem" />
    <p v-else-if="!splitting.proposals.length" class="quiet small none">
      This way makes nothing here{{ splitting.way === 'file' ? ' until a file is chosen' : '' }}.
    </p>
    <div v-else class="proposals">
      <LongRows :items="splitting.proposals" :key-of="(_, i) => String(i)" :row-height="25" list>
        <template #default="{ item: p, index }">
          <div class="proposal num" :class="{ out: !p.taken, seen: seen === p }" @click="look(p)">
            <input
              type="checkbox"
              class="own"
              :checked="p.taken"
              :aria-label="`Make region ${index + 1}`"
              @click.stop
              @change="splitting.turn(p)"
            />
            <span class="no quiet">{{ String(index + 1).padStart(2, '0') }}</span>
            <span class="name clip">{{ p.name || 'without a name' }}</span>
            <span v-if="p.doubt" class="small ochre clip" :title="`${p.doubt}: look at its ends`">look</span>
            <span v-else class="quiet small">{{ p.there ? 'is there' : '' }}</span>
            <span>{{ label(p.in) }}</span><span class="quiet">→</span><span>{{ label(p.out - 1) }}</span>
            <span class="length">{{ formatLength(p.out - p.in, desk.model!) }}</span>
          </div>
        </template>
      </LongRows>
    </div>
    <ul v-if="splitting.made.lost.length" class="lost small">
      <li v-for="(l, i) in splitting.made.lost.slice(0, 6)" :key="i">
        <VerdictMark verdict="fail" :size="9" /> {{ l.name || 'without a name' }} is left out: {{ l.why }}
      </li>
      <li v-if="splitting.made.lost.length > 6" class="quiet">
        and {{ splitting.made.lost.length - 6 }} more; place them by hand
      </li>
    </ul>
    <p v-if="seen?.doubt" class="small ochre">Look at {{ seen.name || 'it' }}: {{ seen.doubt }}.</p>
    <div v-if="seen?.follows && splitting.older" class="both">
      <span class="small quiet clip" :title="splitting.older.name">{{ splitting.older.name }}</span>
      <EdgeView :timeline="splitting.older" :region="seen.follows" elsewhere />
      <span class="small quiet">here</span>
      <EdgeView :timeline="current!" :region="{ ...seen.follows, in: seen.in, out: seen.out }" />
    </div>
    <ProblemNote v-if="splitting.refused" :problem="splitting.refused" class="small ochre" />
    <div class="row spread foot">
      <label v-if="desk.regions.length" class="row small"
        ><input v-model="splitting.keep" type="checkbox" class="own" /> keep the
        {{ plural(desk.regions.length, 'region') }} there {{ desk.regions.length === 1 ? 'is' : 'are'
        }}<span v-if="there" class="quiet">, {{ there }} of them the same</span></label
      >
      <span v-else />
      <Button
        class="own"
        size="small"
        :disabled="!splitting.taken.length || splitting.wrong !== null || splitting.refused !== null"
        :label="what"
        title="Enter"
        @click="splitting.make()"
      />
    </div>
  </section>
</template>

<style scoped>
.panel-of {
  width: 540px;
  flex: 1 1 540px;
  min-width: 0;
  border-left: 1px solid var(--line);
  padding: 12px 14px;
  display: flex;
  flex-direction: column;
  gap: 10px;
  background: var(--surface);
}
.choose {
  display: grid;
  grid-template-columns: 186px 1fr;
  gap: 14px;
  flex: none;
}
.what {
  display: flex;
  flex-direction: column;
  gap: 10px;
  min-width: 0;
}
.hint {
  min-height: 34px;
}
.names {
  display: grid;
  grid-template-columns: 46px 1fr;
  gap: 10px;
  align-items: center;
}
.proposals {
  flex: 1;
  min-height: 60px;
  overflow-y: auto;
  border-top: 1px solid var(--line);
}
.none {
  flex: 1;
  border-top: 1px solid var(--line);
  padding-top: 8px;
}
.proposal {
  display: grid;
  grid-template-columns: 16px 22px minmax(80px, 1fr) minmax(0, auto) auto auto auto 84px;
  gap: 7px;
  align-items: center;
  height: 25px;
  font-size: 12.5px;
  cursor: default;
}
.proposal:hover {
  background: var(--raised);
}
.proposal.seen {
  box-shadow: inset 3px 0 0 var(--crane);
}
.lost {
  margin: 0;
  padding: 0;
  list-style: none;
  flex: none;
}
.both {
  display: grid;
  grid-template-columns: 96px minmax(0, 1fr);
  gap: 6px;
  align-items: center;
  flex: none;
}
.of {
  flex: 1;
}
.proposal.out {
  color: var(--quiet);
}
.name {
  font-family: 'Hanken Grotesk Variable', sans-serif;
  font-weight: 600;
}
.length {
  text-align: right;
}
.foot {
  margin-top: auto;
  border-top: 1px solid var(--line);
  padding-top: 9px;
  flex: none;
}
</style>
