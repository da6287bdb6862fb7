<script setup lang="ts">
import { grouped } from '../../../core/group'
import { findingId, findingWords, type Finding } from '../../../core/split/audit/finding'
import { plural } from '../../lib/text'
import { useAudit } from '../../stores/audit'

/** Every fault of the split, kind by kind: gone to, mended (one or all alike), or accepted as it is, with a reason. */
const emit = defineEmits<{ go: [finding: Finding] }>()
const audit = useAudit()
const groups = computed(() => {
  const by = grouped(audit.findings, (f) => f.kind)
  return [...by].map(([kind, list]) => ({
    kind,
    list: list.slice(0, 200),
    more: Math.max(0, list.length - 200),
    fixes: list.filter((f) => f.fix).length,
    text: plural(list.length, findingWords[kind][0], findingWords[kind][1]),
  }))
})
/** The fault that is being accepted. */
const hand = ref('')
const reason = ref('')
const initials = ref(localStorage.getItem('velvet.initials') ?? '')
function begin(f: Finding) {
  hand.value = hand.value === findingId(f) ? '' : findingId(f)
  reason.value = ''
}
function accept(list: readonly Finding[]) {
  if (!reason.value.trim() || !initials.value.trim()) return
  localStorage.setItem('velvet.initials', initials.value.trim())
  audit.accept(list, { reason: reason.value.trim(), initials: initials.value.trim() })
  hand.value = ''
}
</script>

<template>
  <div class="sheet panel" aria-label="Audit">
    <section v-for="g in groups" :key="g.kind">
      <div class="finding of">
        <h3 class="grow">{{ g.text }}</h3>
        <button v-if="g.fixes > 1" class="act offer" @click="audit.fixAll(g.kind)">Mend all {{ g.fixes }}</button>
      </div>
      <template v-for="f in g.list" :key="findingId(f)">
        <div class="finding">
          <VerdictMark :verdict="f.severity" />
          <button class="plain grow" @click="emit('go', f)">{{ f.text }}</button>
          <button v-if="f.fix" class="act offer" @click="audit.fix(f)">{{ f.fix.label }}</button>
          <button class="plain small accept" :aria-expanded="hand === findingId(f)" @click="begin(f)">accept</button>
        </div>
        <form v-if="hand === findingId(f)" class="finding why" @submit.prevent="accept([f])">
          <InputText
            v-model="reason"
            maxlength="1000"
            size="small"
            placeholder="why it is right as it is"
            aria-label="Reason"
            fluid
          />
          <InputText
            v-model="initials"
            maxlength="20"
            size="small"
            placeholder="initials"
            aria-label="Initials"
            class="initials"
          />
          <Button type="submit" size="small" label="Accept" :disabled="!reason.trim() || !initials.trim()" />
        </form>
      </template>
      <p v-if="g.more" class="small quiet">and {{ g.more }} more</p>
    </section>
    <section v-if="audit.accepted.length">
      <h3 class="of">Accepted</h3>
      <div v-for="{ finding: f, as } in audit.accepted" :key="findingId(f)" class="finding">
        <VerdictMark verdict="waived" />
        <button class="plain grow" @click="emit('go', f)">
          {{ f.text }} <span class="quiet">{{ as.initials }}: {{ as.reason }}</span>
        </button>
        <button class="plain small accept" @click="audit.accept([f], null)">take back</button>
      </div>
    </section>
    <p v-if="!audit.findings.length" class="quiet">Nothing is wrong with this split.</p>
  </div>
</template>

<style scoped>
.sheet {
  position: absolute;
  left: 10px;
  bottom: 36px;
  width: 680px;
  max-height: 420px;
  overflow: auto;
  padding: 8px 14px;
  z-index: 20;
  box-shadow: 0 8px 28px rgb(0 0 0 / 0.4);
}
.finding {
  display: flex;
  align-items: center;
  gap: 9px;
  padding: 4px 0;
}
.of {
  padding-top: 8px;
}
.accept {
  color: var(--quiet);
}
.why {
  padding-left: 20px;
}
.initials {
  width: 88px;
}
</style>
