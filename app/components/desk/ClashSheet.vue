<script setup lang="ts">
import type { ShownTimeline } from '../../../contract/timelines'
import { standing, type Clash } from '../../../core/split/merge'
import { differences } from '../../lib/clash'
import { frameUrl } from '../../lib/stills'
import { plural } from '../../lib/text'
import { useEditor } from '../../stores/editor'
import { useSplit } from '../../stores/split'

/** What was changed here and in another window to different ends, side by side, until somebody settles it. */
const props = defineProps<{ timeline: ShownTimeline }>()
const desk = useEditor()
const split = useSplit()
const rows = computed(() =>
  split.clashes.map((clash) => {
    const theirs = standing(desk.split, clash)
    return {
      clash,
      name: (theirs ?? clash.mine)?.name ?? '',
      differences: differences(clash.mine, theirs, props.timeline.model),
    }
  }),
)
/** Goes to where they differ. */
function go(clash: Clash) {
  const x = standing(desk.split, clash) ?? clash.mine
  if (!x) return
  desk.go('at' in x ? x.at : x.in)
  if (clash.of === 'region') desk.select(clash.id)
}
const sides = [
  { side: 'theirs', head: 'as it stands, changed elsewhere', take: 'leave it' },
  { side: 'mine', head: 'as it was changed here', take: 'take this' },
] as const
</script>

<template>
  <section class="clashes" role="alert" aria-label="Changed twice">
    <div class="top">
      <strong
        >{{ plural(rows.length, 'change') }} made here {{ rows.length === 1 ? 'is' : 'are' }} at odds with one made in
        another window.</strong
      >
      <span class="quiet">Nothing is lost: choose what is to stand.</span>
      <span class="grow" />
      <template v-if="rows.length > 1">
        <button class="act offer" @click="split.settle(split.clashes, false)">leave all</button>
        <button class="act offer" @click="split.settle(split.clashes, true)">take all of mine</button>
      </template>
    </div>
    <div class="list">
      <div v-for="{ clash, name, differences: list } in rows" :key="clash.id" class="clash">
        <button class="plain name clip" :title="`Go to ${name}`" @click="go(clash)">
          {{ name || 'without a name' }} <span class="quiet small">{{ clash.of }}</span>
        </button>
        <div v-for="s in sides" :key="s.side" class="side" :aria-label="s.head">
          <span class="small quiet">{{ s.head }}</span>
          <div class="said">
            <span v-for="d in list" :key="d.label" class="fact">
              <img
                v-if="d[s.side].frame !== null && !desk.alone"
                :src="frameUrl(timeline, d[s.side].frame!, 160)"
                :alt="`Frame ${d[s.side].frame}`"
              />
              <span
                ><span v-if="d.label" class="small quiet">{{ d.label }}<br /></span
                ><span :class="{ num: d[s.side].frame !== null }">{{ d[s.side].text }}</span></span
              >
            </span>
          </div>
          <button class="act offer" @click="split.settle([clash], s.side === 'mine')">{{ s.take }}</button>
        </div>
      </div>
    </div>
  </section>
</template>

<style scoped>
.clashes {
  flex: none;
  border-top: 2px solid var(--ochre);
  background: var(--surface);
  font-size: 13px;
}
.top {
  display: flex;
  align-items: baseline;
  gap: 12px;
  padding: 7px 14px 3px;
}
.list {
  max-height: 232px;
  overflow-y: auto;
}
.clash {
  display: grid;
  grid-template-columns: 200px 1fr 1fr;
  gap: 14px;
  padding: 6px 14px;
  border-top: 1px solid var(--line);
}
.name {
  text-align: left;
  align-self: start;
}
.side {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 2px 12px;
  align-items: center;
}
.side > .small {
  grid-column: 1 / -1;
}
.said {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 18px;
}
.fact {
  display: flex;
  gap: 8px;
  align-items: center;
  max-width: 100%;
  overflow-wrap: anywhere;
}
.fact img {
  width: 80px;
  height: 45px;
  object-fit: contain;
  background: #000;
}
</style>
