<script setup lang="ts">
import { useRoots } from '../lib/roots'
import { expectationText } from '../../core/spec/judge'
import { tableFormats } from '../../core/picture/table/registry'
import { measureOf } from '../../core/measure/registry'
import { openSpec, shippedSpecs } from '../../core/spec/shipped'
import { specSchema } from '../../core/spec/spec'
import { checksumKind, checksumKinds, usualChecksums } from '../../core/files/checksums'
import { kindNames, regionKinds } from '../../core/split/kinds'
import type { Recipe } from '../../core/recipe/recipe'
import { endingOf, recipeKind } from '../../core/recipe/registry'
import { listed } from '../../core/text'
import { api } from '../lib/api'
import { bytesText, plural } from '../lib/text'
import { nameFields } from '../../core/deliverable/names'
import { useDeliverables } from '../stores/deliverables'
import { useProblems } from '../stores/problems'
import { useShelf } from '../stores/shelf'
import type { Outlet } from '../../core/deliverable/outlet'

/** Where outlets, recipes and specs are kept; storage and workers of this machine. */
const deliverables = useDeliverables()
const problems = useProblems()
const shelf = useShelf()
const roots = useRoots()
const awayRoots = computed(() => roots.value.flatMap((r) => r.away ?? []))
const draft = ref<Outlet | null>(null)
const isNew = ref(false)
const picking = ref(false)
const spec = ref(shelf.specs[0]?.id ?? '')
const chosenSpec = computed(() => shelf.specs.find((s) => s.id === spec.value))

function edit(o: Outlet) {
  draft.value = { kinds: [], checksums: [...usualChecksums], ...structuredClone(toRaw(o)) }
  isNew.value = false
}
function create() {
  const r = shelf.recipes.find((x) => x.kind === 'viewing') ?? shelf.recipes[0]!
  draft.value = {
    id: crypto.randomUUID(),
    name: '',
    recipe: structuredClone(toRaw(r)),
    spec: 'open',
    pattern: '{show}/{number}_{region}_{version}',
    root: roots.value[0]?.name ?? '',
    folder: 'Deliveries',
    kinds: [],
    checksums: [...usualChecksums],
  }
  isNew.value = true
}
function takeRecipe(kind: string) {
  const r = shelf.recipes.find((x) => x.kind === kind)
  if (draft.value && r) draft.value.recipe = structuredClone(toRaw(r))
}
async function save() {
  if (draft.value && (await shelf.save(draft.value))) draft.value = null
}
async function remove(o: Outlet) {
  if (!confirm(`Take the outlet “${o.name}” off the shelf? Files already written stay.`)) return
  await problems.attempt(async () => {
    await api('DELETE outlets/:id', { params: { id: o.id } })
    await Promise.all([shelf.load(), deliverables.load()])
  })
}
const field = ref<HTMLInputElement>()
async function takeSpec(file: File | undefined) {
  if (!file) return
  await problems.attempt(async () => {
    let value: unknown
    try {
      value = JSON.parse(await file.text())
    } catch (e) {
      throw Object.assign(new Error(`${file.name} is not JSON: ${(e as Error).message}`))
    }
    const parsed = specSchema.safeParse(value)
    if (!parsed.success) {
      const first = parsed.error.issues[0]!
      throw new Error(`${file.name}: ${first.path.join('.') || 'the file'}: ${first.message}`)
    }
    await api('POST specs', { body: parsed.data })
    await shelf.load()
    spec.value = parsed.data.id
  })
}
const tableField = ref<HTMLInputElement>()
async function takeTables(files: FileList | null | undefined) {
  // taken before the field forgets them
  const list = [...(files ?? [])]
  for (const file of list)
    await problems.attempt(async () => {
      await api('POST tables', { body: { file: file.name, text: await file.text() } })
      await shelf.load()
    })
}
async function removeTable(id: string) {
  await problems.attempt(async () => {
    await api('DELETE tables/:id', { params: { id } })
    await shelf.load()
  })
}
const shipped = new Set([...shippedSpecs, openSpec].map((s) => s.id))
async function removeSpec(id: string) {
  await problems.attempt(async () => {
    await api('DELETE specs/:id', { params: { id } })
    await shelf.load()
    spec.value = shelf.specs[0]?.id ?? ''
  })
}
const kindWords = (r: Recipe) => recipeKind(r).label
/** Whether this machine can encode what a recipe of this kind writes. */
const available = (r: Recipe) =>
  recipeKind(r).encodes.every((codec) => shelf.abilities?.encodes.includes(codec) ?? false)
</script>

<template>
  <div class="station shelf">
    <section class="outlets">
      <div class="row spread">
        <h2>Outlets</h2>
        <Button size="small" label="New outlet" :disabled="!roots.length" @click="create()" />
      </div>
      <div v-for="o in shelf.outlets" :key="o.id" class="panel card">
        <div class="row spread">
          <strong>{{ o.name }}</strong><span class="row"
            ><button class="plain small" @click="edit(o)">change</button
            ><button class="plain small quiet" @click="remove(o)">remove</button></span
          >
        </div>
        <p class="small">
          {{ o.recipe.name }} <span class="quiet">({{ kindWords(o.recipe) }})</span>
        </p>
        <p class="small quiet">
          {{ shelf.specs.find((s) => s.id === o.spec)?.name }} · into
          <span class="num">{{ o.root }}/{{ o.folder }}</span>
        </p>
        <p class="num small">{{ o.pattern }}</p>
        <p v-if="o.checksums" class="small quiet">
          with {{ listed(o.checksums.map((k) => checksumKind(k).label)) }} of every file
        </p>
        <p v-if="o.kinds?.length" class="small quiet">
          asks for
          {{
            listed(
              o.kinds.map((k) => regionKinds[k].many),
              'and',
            )
          }}
        </p>
      </div>
      <h2>Recipes</h2>
      <div v-for="r in shelf.recipes" :key="r.id" class="row spread recipe">
        <span
          >{{ r.name }} <span class="quiet small">{{ kindWords(r) }}</span></span
        ><span class="small" :class="available(r) ? 'moss' : 'red'">{{
          available(r) ? 'available here' : 'needs the codec package, which is not installed here'
        }}</span>
      </div>
      <div class="row spread tables">
        <h2>Look-up tables</h2>
        <Button size="small" severity="secondary" label="Add from files" @click="tableField?.click()" />
      </div>
      <input
        ref="tableField"
        type="file"
        multiple
        :accept="tableFormats.flatMap((f) => f.extensions).join()"
        aria-label="Look-up tables from files"
        hidden
        @change="takeTables(tableField?.files).finally(() => tableField && (tableField.value = ''))"
      />
      <p v-if="!shelf.tables.length" class="small quiet">
        None. {{ listed(tableFormats.map((f) => `${f.label} (${f.extensions[0]})`)) }} are read here; recipes that make
        pictures can go by one.
      </p>
      <div v-for="t in shelf.tables" :key="t.id" class="row spread recipe">
        <span class="clip"
          >{{ t.name }} <span class="num quiet small" :title="t.id">{{ t.shape }}</span></span
        ><button class="plain small quiet" @click="removeTable(t.id)">remove</button>
      </div>
      <h2>Storage</h2>
      <div v-for="r in roots" :key="r.name" class="row spread recipe">
        <span
          ><strong>{{ r.name }}</strong> <span class="num quiet small">{{ r.path }}</span></span
        ><span v-if="r.away" class="red small">away</span
        ><span v-else class="num small">{{ bytesText(r.free) }} free</span>
      </div>
      <ProblemNote v-for="p in awayRoots" :key="p.where" :problem="p" />
      <h2>Workers</h2>
      <MachineList />
      <h2>Log</h2>
      <LogLines />
    </section>
    <section>
      <div class="row spread">
        <h2>Specs</h2>
        <Button size="small" severity="secondary" label="Add from a file" @click="field?.click()" />
      </div>
      <input ref="field" type="file" accept=".json" hidden @change="takeSpec(field?.files?.[0])" />
      <div class="row specs">
        <button v-for="s in shelf.specs" :key="s.id" class="tab" :class="{ on: s.id === spec }" @click="spec = s.id">
          {{ s.name }}
        </button>
      </div>
      <template v-if="chosenSpec"
        ><p class="small quiet">
          {{ chosenSpec.recipient
          }}<template v-if="chosenSpec.issued"
            >, issued <span class="num">{{ chosenSpec.issued }}</span></template
          >
          · {{ plural(chosenSpec.rules.length, 'rule')
          }}<template v-if="!shipped.has(chosenSpec.id)"
            >{{ ' · ' }}<button class="plain small quiet" @click="removeSpec(chosenSpec.id)">remove</button></template
          >
        </p>
        <table class="rules">
          <tbody>
            <tr v-for="r in chosenSpec.rules" :key="r.id">
              <td>{{ measureOf(r.measure).label }}</td>
              <td class="num">{{ expectationText(r) }}</td>
              <td :class="r.severity === 'must' ? '' : 'quiet'">{{ r.severity }}</td>
              <td class="num quiet small">{{ r.clause }}</td>
            </tr>
          </tbody>
        </table></template
      >
    </section>
    <Dialog
      v-if="draft"
      :visible="true"
      modal
      :header="isNew ? 'New outlet' : draft.name"
      :style="{ width: '560px' }"
      @update:visible="draft = null"
    >
      <form class="form" @submit.prevent="save">
        <label>Name</label><InputText v-model="draft.name" size="small" autofocus /> <label>Recipe</label
        ><select :value="draft.recipe.kind" @change="takeRecipe(($event.target as HTMLSelectElement).value)">
          <option v-for="r in shelf.recipes" :key="r.id" :value="r.kind">{{ r.name }}: {{ kindWords(r) }}</option>
        </select>
        <label>Spec</label
        ><select v-model="draft.spec">
          <option v-for="s in shelf.specs" :key="s.id" :value="s.id">{{ s.name }}</option>
        </select>
        <label title="Regions of these kinds are asked for; others are held back until somebody accepts them"
          >Asks for</label
        >
        <div class="kinds">
          <label v-for="k in kindNames" :key="k" class="row small"
            ><input v-model="draft.kinds" type="checkbox" :value="k" /> {{ regionKinds[k].many }}</label
          >
        </div>
        <label title="Made of every file, and written into a list of each kind beside them">Checksums</label>
        <div class="kinds">
          <label v-for="k in checksumKinds" :key="k.name" class="row small"
            ><input v-model="draft.checksums" type="checkbox" :value="k.name" /> {{ k.label }}</label
          >
        </div>
        <label>Names</label
        ><PatternEditor
          :fields="nameFields"
          :pattern="draft.pattern"
          :extension="endingOf(draft.recipe)"
          @change="(p) => (draft!.pattern = p)"
        />
        <label>Folder</label>
        <div class="row">
          <select v-model="draft.root" style="width: 130px">
            <option v-for="r in roots" :key="r.name">{{ r.name }}</option></select
          ><InputText v-model="draft.folder" size="small" class="grow" /><Button
            size="small"
            type="button"
            severity="secondary"
            label="Choose"
            @click="picking = true"
          />
        </div>
        <label>Settings</label
        ><RecipeSettings :recipe="draft.recipe" @set="(v) => (draft!.recipe = { ...draft!.recipe, ...v })" /> <span />
        <div class="row keep">
          <Button
            type="submit"
            label="Keep it on the shelf"
            :disabled="!draft.name.trim() || !draft.checksums?.length"
          /><Button type="button" severity="secondary" label="Leave it" @click="draft = null" />
        </div>
      </form>
    </Dialog>
    <FilePicker
      v-if="picking && draft"
      title="Where its files go"
      folders
      @close="picking = false"
      @choose="
        (p) => {
          draft!.root = p.root
          draft!.folder = p.path
          picking = false
        }
      "
    />
  </div>
</template>

<style scoped>
/* what ends the dialog stays in sight, however many settings a recipe has */
.keep {
  position: sticky;
  bottom: -24px;
  z-index: 1;
  background: var(--surface);
  padding: 10px 0 24px;
}
.shelf {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.15fr);
  gap: 32px;
  align-items: start;
}
h2 {
  margin: 14px 0 8px;
}
section > .row:first-child h2,
section > h2:first-child {
  margin-top: 0;
}
.kinds {
  display: flex;
  flex-wrap: wrap;
  gap: 3px 14px;
}
.card {
  padding: 9px 13px;
  margin-bottom: 8px;
  display: flex;
  flex-direction: column;
  gap: 2px;
}
.recipe {
  padding: 4px 0;
  border-bottom: 1px solid var(--line);
}
.specs {
  flex-wrap: wrap;
  margin-bottom: 8px;
}
.tab {
  background: none;
  border: 1px solid var(--line);
  color: var(--text);
  font: inherit;
  font-size: 13px;
  padding: 3px 10px;
  border-radius: 2px;
  cursor: pointer;
}
.tab.on {
  border-color: var(--crane);
  color: var(--crane);
}
table {
  width: 100%;
  font-size: 13px;
  margin-top: 6px;
}
.rules {
  table-layout: fixed;
}
.rules td:nth-child(1) {
  width: 26%;
}
.rules td:nth-child(3) {
  width: 9%;
}
.rules td:nth-child(4) {
  width: 25%;
}
td {
  padding: 4px 10px 4px 0;
  border-bottom: 1px solid var(--line);
  vertical-align: baseline;
}
.form {
  display: grid;
  grid-template-columns: 80px 1fr;
  gap: 10px 12px;
  align-items: start;
}
.form > label {
  color: var(--quiet);
  padding-top: 4px;
  font-size: 13px;
}
select {
  background: var(--ground);
  border: 1px solid var(--line);
  color: var(--text);
  font: inherit;
  font-size: 13px;
  padding: 4px 6px;
  border-radius: 2px;
}
</style>
