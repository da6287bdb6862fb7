<script setup lang="ts">
import type { DeliverableSummary } from '../../contract/deliverables'
import type { Outlet } from '../../core/deliverable/outlet'
import { collisions } from '../../core/deliverable/versions'
import { entryOf } from '../../core/files/fileset'
import { endingOf } from '../../core/recipe/registry'
import { bytesText, plural } from '../lib/text'
import { nameFields } from '../../core/deliverable/names'
import { useDeliverables } from '../stores/deliverables'
import { useEditor } from '../stores/editor'
import { useShelf } from '../stores/shelf'
import { useTimelines } from '../stores/timelines'
import { useTryouts } from '../stores/tryouts'

const deliverables = useDeliverables()
const shelf = useShelf()
const desk = useEditor()
const timelines = useTimelines()
const tryouts = useTryouts()
const route = useRoute()
/** The deliverable in hand: a region for an outlet; without a region, the outlet as a whole. */
const hand = ref<{ outletId: string; regionId: string | null }>({
  outletId: (route.query.outlet as string | undefined) ?? shelf.outlets[0]?.id ?? '',
  regionId: desk.current?.id ?? null,
})
const outlet = computed(
  (): Outlet | null => shelf.outlets.find((o) => o.id === hand.value.outletId) ?? shelf.outlets[0] ?? null,
)
const cell = computed(
  (): DeliverableSummary | null =>
    deliverables.ofTimeline.find((d) => d.regionId === hand.value.regionId && d.outletId === outlet.value?.id) ?? null,
)
const own = computed(() => deliverables.all.filter((d) => d.outletId === outlet.value?.id))
const longest = computed(() =>
  own.value.reduce<DeliverableSummary | null>((a, d) => (!a || d.path.length > a.path.length ? d : a), null),
)
const doubled = computed(() => [
  ...collisions(own.value.map((d) => entryOf(d.path).replace(/_v\d+(?=(\.[^./]+)?$)/, ''))).values(),
])
const fileName = (p: string) => p.split('/').at(-1)!
</script>

<template>
  <div class="outlets">
    <TryoutView
      v-if="tryouts.open && timelines.current?.id === tryouts.key?.timelineId"
      :timeline="timelines.current!"
    />
    <div v-else-if="!shelf.outlets.length" class="station">
      <h1>No outlets yet</h1>
      <p class="quiet">
        An outlet is who receives: a recipe, a spec, a name pattern and a folder.
        <NuxtLink to="/shelf">Make one on the Shelf</NuxtLink>
      </p>
    </div>
    <template v-else>
      <div class="naming">
        <div class="row spread">
          <h3>Names for {{ outlet?.name }}</h3>
          <span class="small quiet"
            >{{ plural(own.length, 'file') }} · {{ bytesText(own.reduce((n, d) => n + d.bytes, 0)) }} · into
            <span class="num">{{ outlet?.root }}/{{ outlet?.folder }}</span></span
          >
        </div>
        <PatternEditor
          v-if="outlet"
          :fields="nameFields"
          :pattern="outlet.pattern"
          :extension="endingOf(outlet.recipe)"
          @change="(p) => p !== outlet!.pattern && shelf.save({ ...outlet!, pattern: p })"
        />
        <div class="results small">
          <span
            ><span class="quiet">in hand</span>{{ ' ' }}
            <span class="num">{{ cell ? cell.path : 'no region in hand goes here' }}</span></span
          >
          <span v-if="longest"
            ><span class="quiet">longest, {{ fileName(longest.path).length }} characters</span>{{ ' ' }}
            <span class="num">{{ fileName(longest.path) }}</span></span
          >
          <span v-for="(c, i) in doubled" :key="i" class="red"
            >{{ plural(c.length, 'file') }} would be called
            <span class="num">{{ fileName(own[c[0]!]!.path) }}</span></span
          >
          <span v-if="!doubled.length" class="quiet">no two files get one name</span>
        </div>
      </div>
      <div class="body">
        <OutletMatrix v-model:hand="hand" :outlet-id="outlet?.id ?? null" />
        <DeliverableSettings
          v-if="outlet"
          :outlet="outlet"
          :deliverable="cell"
          @whole="hand = { outletId: outlet.id, regionId: null }"
        />
      </div>
    </template>
  </div>
</template>

<style scoped>
.outlets {
  height: 100%;
  display: flex;
  flex-direction: column;
}
.naming {
  padding: 12px 18px 10px;
  border-bottom: 1px solid var(--line);
  background: var(--surface);
  display: flex;
  flex-direction: column;
  gap: 7px;
  flex: none;
}
.results {
  display: flex;
  gap: 4px 22px;
  flex-wrap: wrap;
}
.body {
  flex: 1;
  min-height: 0;
  display: flex;
}
</style>
