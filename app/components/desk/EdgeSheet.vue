<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import type { ShownTimeline } from '../../../contract/timelines'
import { isLookedAt, type Region } from '../../../core/split/region'
import { formatLength } from '../../../core/time/timecode'
import { isTyping } from '../../lib/keys'
import { plural } from '../../lib/text'
import { useAudit } from '../../stores/audit'
import { useEditor } from '../../stores/editor'
import { useSplit } from '../../stores/split'

/** The pictures at both ends of every region, to be looked through by keyboard before a night. */
const props = defineProps<{ timeline: ShownTimeline }>()
const desk = useEditor()
const split = useSplit()
const audit = useAudit()
const rowHeight = 158
const list = ref<HTMLElement>()
const onlyLeft = ref(false)
/** Regions that stay in a list of what is left while one is on it: they go with the next look. */
const held = ref(new Set<string>())
const left = computed(() => desk.regions.filter((r) => !isLookedAt(r)))
const shown = computed(() =>
  onlyLeft.value ? desk.regions.filter((r) => !isLookedAt(r) || held.value.has(r.id)) : desk.regions,
)
const faults = computed(() => {
  const out = new Map<string, string>()
  for (const f of audit.findings) for (const id of f.regions) if (!out.has(id)) out.set(id, f.text)
  return out
})

function show(r: Region | undefined) {
  if (!r) return
  desk.select(r.id)
  const y = shown.value.indexOf(r) * rowHeight
  const el = list.value
  if (!el) return
  if (y < el.scrollTop) el.scrollTop = y
  else if (y + rowHeight > el.scrollTop + el.clientHeight) el.scrollTop = y + rowHeight - el.clientHeight
}
const at = () => shown.value.findIndex((r) => r.id === desk.current?.id)
function step(by: 1 | -1) {
  show(shown.value[at() < 0 ? 0 : at() + by])
}
/** To the next one that nobody has looked at, from the one in hand on, then from the top. */
function next() {
  const from = at() + 1
  show([...shown.value.slice(from), ...shown.value.slice(0, from)].find((r) => !isLookedAt(r)))
}
function accept() {
  const r = desk.current
  if (!r) return next()
  held.value = new Set([r.id])
  split.lookAt([r.id], true)
  next()
}
function nudge(edge: 'in' | 'out', by: number) {
  const r = desk.current
  if (r) desk.trim(r.id, edge, r[edge] + by)
}
useEventListener(
  window,
  'keydown',
  (e: KeyboardEvent) => {
    if (e.ctrlKey || e.metaKey || isTyping(e)) return
    const by = desk.nudge
    const actions: Record<string, () => void> = {
      ArrowDown: () => step(1),
      ArrowUp: () => step(-1),
      Home: () => show(shown.value[0]),
      End: () => show(shown.value.at(-1)),
      ArrowLeft: () => nudge(e.shiftKey ? 'out' : 'in', -by),
      ArrowRight: () => nudge(e.shiftKey ? 'out' : 'in', by),
      Enter: accept,
      Backspace: () => desk.current && split.lookAt([desk.current.id], false),
    }
    const action = actions[e.key]
    if (!action) return
    e.preventDefault()
    e.stopPropagation()
    action()
  },
  { capture: true },
)
onMounted(() => {
  if (desk.current) show(desk.current)
  else next()
})
const base = computed(() => props.timeline.model)
</script>

<template>
  <section class="sheet" aria-label="Edges">
    <div class="head">
      <h3>Edges</h3>
      <span>
        <span class="num">{{ desk.regions.length - left.length }}</span> of
        {{ plural(desk.regions.length, 'region') }} looked at
      </span>
      <label class="row small"><input v-model="onlyLeft" type="checkbox" /> only what is left</label>
      <span class="grow" />
      <span class="small quiet keys">
        <kbd>↓ ↑</kbd> region · <kbd>← →</kbd> first frame · <kbd>Shift+← →</kbd> last frame · <kbd>Ctrl+← →</kbd> both
        · <kbd>⏎</kbd> right, next · <kbd>⌫</kbd> not right
      </span>
    </div>
    <p v-if="!desk.regions.length" class="empty quiet">There are no regions yet. <kbd>1</kbd> shows the strip.</p>
    <p v-else-if="!shown.length" class="empty quiet">Every region has been looked at.</p>
    <div ref="list" class="list">
      <LongRows :items="shown" :key-of="(r) => r.id" :row-height="rowHeight" list>
        <template #default="{ item: r }">
          <div
            class="ends"
            :class="{ chosen: desk.selected.includes(r.id), looked: isLookedAt(r) }"
            :data-region="r.id"
            :style="{ height: `${rowHeight}px` }"
            @click="desk.select(r.id)"
          >
            <div class="what">
              <div class="row">
                <span class="num quiet no">{{ String(desk.regions.indexOf(r) + 1).padStart(2, '0') }}</span>
                <DraftInput
                  class="bare name"
                  :value="r.name"
                  placeholder="name this region"
                  aria-label="Name"
                  spellcheck="false"
                  :refuse="(name) => desk.refused(r.id, name)"
                  @change="desk.rename(r.id, $event.trim())"
                  @keydown.stop
                />
              </div>
              <div class="num times">
                <TimecodeField
                  :frame="r.in"
                  :base="base"
                  :start="base.start"
                  label="First frame"
                  @change="desk.trim(r.id, 'in', $event)"
                />
                <span class="quiet">first</span>
                <TimecodeField
                  :frame="r.out - 1"
                  :base="base"
                  :start="base.start"
                  label="Last frame"
                  @change="desk.trim(r.id, 'out', $event + 1)"
                />
                <span class="quiet">last</span>
                <span>{{ formatLength(r.out - r.in, base) }}</span><span class="quiet">long</span>
              </div>
              <div v-if="faults.get(r.id)" class="small ochre clip" :title="faults.get(r.id)">
                {{ faults.get(r.id) }}
              </div>
              <button class="plain small state" @click.stop="split.lookAt([r.id], !isLookedAt(r))">
                <span v-if="isLookedAt(r)" class="moss">✓ looked at, right</span>
                <span v-else class="quiet">○ not looked at</span>
              </button>
            </div>
            <EdgeView :timeline="timeline" :region="r" />
          </div>
        </template>
      </LongRows>
    </div>
  </section>
</template>

<style scoped>
.sheet {
  display: flex;
  flex-direction: column;
  min-width: 0;
}
.head {
  display: flex;
  align-items: center;
  gap: 16px;
  padding: 9px 16px;
  border-bottom: 1px solid var(--line);
  flex: none;
}
.keys {
  white-space: nowrap;
}
.list {
  flex: 1;
  min-height: 0;
  overflow-y: auto;
}
.empty {
  padding: 26px 18px;
}
.ends {
  display: grid;
  grid-template-columns: 236px 1fr;
  gap: 16px;
  padding: 8px 16px 0;
  border-bottom: 1px solid var(--line);
  overflow: hidden;
}
.ends.chosen {
  background: var(--raised);
  box-shadow: inset 3px 0 0 var(--crane);
}
.what {
  min-width: 0;
  display: flex;
  flex-direction: column;
  gap: 4px;
}
.no {
  font-size: 12px;
}
.name {
  font-weight: 600;
  font-size: 14.5px;
}
.times {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 1px 8px;
  font-size: 12.5px;
  padding-left: 24px;
}
.what > .small {
  padding-left: 24px;
}
.state {
  margin-top: auto;
  margin-bottom: 10px;
}
</style>
