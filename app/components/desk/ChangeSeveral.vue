<script setup lang="ts">
import { regionChanges } from '../../../core/split/changes/registry'
import { plural } from '../../lib/text'
import { useRows } from '../../stores/rows'
import { useShelf } from '../../stores/shelf'

/** What is done to several regions of the table at once: a change that is seen in the rows before it is made, outlets. */
const rows = useRows()
const shelf = useShelf()
async function open(field: string, files: FileList | null) {
  const [f] = files ?? []
  if (f) rows.type(field, await f.text())
}
</script>

<template>
  <aside class="change" aria-label="Change several">
    <h3>Change several at once</h3>
    <p class="small quiet">
      Of what is selected when there are two or more, else of all that is shown:
      {{ plural(rows.meant.length, 'region') }}.
    </p>
    <div class="picks" role="radiogroup" aria-label="Change">
      <button
        v-for="c in regionChanges"
        :key="c.name"
        role="radio"
        :aria-checked="rows.change === c.name"
        :title="c.hint"
        @click="rows.choose(rows.change === c.name ? '' : c.name)"
      >
        {{ c.label }}
      </button>
    </div>
    <template v-if="rows.changing">
      <p class="small quiet">{{ rows.changing.hint }}</p>
      <SettingFields
        class="fields"
        :settings="rows.changing.settings"
        :values="rows.set"
        :wrong="rows.wrong"
        @type="rows.type"
      >
        <template #lines="{ field, setting }">
          <LinesField
            :text="String(rows.set[field])"
            :read="
              String(rows.set[field])
                .split('\n')
                .map((text) => ({ text, why: null }))
            "
            :placeholder="setting.hint ?? ''"
            :label="setting.label"
            @change="rows.type(field, $event)"
          />
          <label class="row small quiet"
            >File <input type="file" @change="open(field, ($event.target as HTMLInputElement).files)"
          /></label>
        </template>
      </SettingFields>
      <ProblemNote v-if="rows.outcome.problem" :problem="rows.outcome.problem" />
      <div class="row">
        <Button
          size="small"
          :disabled="!rows.changed.size"
          :label="rows.changed.size ? `Change ${plural(rows.changed.size, 'region')}` : 'Nothing to change'"
          @click="rows.apply()"
        />
        <button class="plain small quiet" @click="rows.choose('')">leave it</button>
      </div>
    </template>
    <h3>Send them to</h3>
    <div class="outlets">
      <label v-for="o in shelf.outlets" :key="o.id" class="row small">
        <input
          type="checkbox"
          :checked="rows.goingTo(o.id) === rows.meant.length && rows.meant.length > 0"
          :indeterminate="rows.goingTo(o.id) > 0 && rows.goingTo(o.id) < rows.meant.length"
          :disabled="!rows.meant.length"
          @change="rows.send(o.id, ($event.target as HTMLInputElement).checked)"
        />
        <span class="grow">{{ o.name }}</span><span class="num quiet"
          >{{ rows.goingTo(o.id) }} of {{ rows.meant.length }}</span
        >
      </label>
      <p v-if="!shelf.outlets.length" class="small quiet">There are no outlets yet.</p>
    </div>
  </aside>
</template>

<style scoped>
.change {
  width: 316px;
  flex: none;
  border-left: 1px solid var(--line);
  background: var(--surface);
  padding: 10px 14px;
  display: flex;
  flex-direction: column;
  gap: 10px;
  overflow-y: auto;
}
.fields {
  grid-template-columns: 104px 1fr;
}
</style>
