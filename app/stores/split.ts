import { defineStore } from 'pinia'
import { markRaw } from 'vue'
import * as edit from '../../core/split/edit'
import { redo, startHistory, push, undo, type History } from '../../core/split/history'
import { foreignPatch, mergeSplits, takeMine, unsettled, type Clash } from '../../core/split/merge'
import { applyPatch, diffSplit } from '../../core/split/patch'
import { emptySplit, sameSplit, type Split } from '../../core/split/region'
import { fail, toProblem } from '../../core/problem'
import type { ShownTimeline } from '../../contract/timelines'
import { api } from '../lib/api'
import {
  forgetUnsaved,
  keepClashes,
  keepSteps,
  keepUnsaved,
  leftClashes,
  leftSteps,
  leftUnsaved,
  type Pending,
} from '../lib/unsaved'
import { useProblems } from './problems'
import { useTimelines } from './timelines'

/** Splits of timelines that were taken off the desk before the server had them. */
const leftBehind = new Map<string, Split>()

/** Sends what changed of a split; the version it made, or null where another window was quicker. */
async function send(id: string, kept: Split, split: Split, version: number): Promise<number | null> {
  try {
    const body = { patch: diffSplit(kept, split), version }
    return (await api('PATCH timelines/:id/split', { params: { id }, body })).version
  } catch (e) {
    if (toProblem(e).code === 'split.moved-on') return null
    throw e
  }
}

/** A timeline as the server has it now, with a newer split than that of a version. */
async function newer(id: string, version: number): Promise<ShownTimeline> {
  await useTimelines().load()
  const t = useTimelines().all.find((x) => x.id === id)
  if (!t) fail('timeline.unknown', 'This timeline is no longer here.', id, 'Its last change could not be kept.')
  return t.splitVersion > version ? t : fail('split.moved-on', 'A change could not be saved yet.', t.name)
}

/** The split in hand with its steps, on its way to the server and merged with what others change of it. */
export const useSplit = defineStore('split', {
  state: () => ({
    /** The timeline that is split. */
    id: '',
    /** Replaced at every step, never changed. */
    history: markRaw(startHistory<Split>(emptySplit)) as History<Split>,
    version: 0,
    saving: false,
    unsaved: false,
    /** The split as the server has it at this version. */
    kept: markRaw(emptySplit) as Split,
    /** The split on its way to the server. */
    sent: null as Split | null,
    /** What was changed here and elsewhere to different ends: what is here is theirs. */
    clashed: markRaw([]) as readonly Clash[],
    /** An edge is being dragged: it is saved and audited when it is dropped. */
    dragging: false,
  }),
  getters: {
    split: (s): Split => s.history.present,
    /** Clashes that nobody has settled yet. */
    clashes(): readonly Clash[] {
      return unsettled(this.split, this.clashed)
    },
  },
  actions: {
    /** Takes the split of a timeline in hand; the one in hand takes up what others changed, unless it is changing. */
    lay(t: ShownTimeline) {
      if (t.id === this.id) {
        if (t.splitVersion > this.version && !this.unsaved && !this.saving && !this.dragging) this.takeUp(t, null)
        return
      }
      if (this.saving) leftBehind.set(this.id, this.split)
      this.keepHistory()
      Object.assign(this, {
        id: t.id,
        history: markRaw(leftSteps(t.id, t.splitVersion) ?? startHistory(t.split)),
        version: t.splitVersion,
        kept: markRaw(t.split),
        saving: false,
        unsaved: false,
        sent: null,
        clashed: markRaw(leftClashes(t.id)),
        dragging: false,
      })
      const left = leftUnsaved(t.id, t.split, t.splitVersion)
      if (left) this.takeLeft(left, t)
    },
    /** Takes up what a reload left unsaved: the last change is a step, and is saved. */
    takeLeft({ kept, sent, split: left }: Pending, t: ShownTimeline) {
      const { split, clashes } = mergeSplits(kept, left, foreignPatch(kept, t.split, sent))
      this.clash(clashes)
      if (sameSplit(split, t.split)) return forgetUnsaved(t.id)
      this.sent = sent && markRaw(sent)
      if (!sameSplit(edit.withLooked(split, t.split), t.split)) return this.step('Last change', split)
      // what was looked at is no step
      this.history = markRaw({ ...this.history, present: split })
      void this.save()
    },
    /**
     * Takes up what others changed of the split: what was changed here since stays, and can be undone as before. What
     * both changed is theirs until somebody says otherwise.
     */
    takeUp(t: ShownTimeline, sent: Split | null) {
      const patch = foreignPatch(this.kept, t.split, sent)
      const merged = (split: Split) => mergeSplits(this.kept, split, patch)
      const { split, clashes } = merged(this.split)
      const steps = (list: History<Split>['past']) => list.map((s) => ({ ...s, value: merged(s.value).split }))
      // what did not change stays the same objects, so that thousands are not compared at each edit
      const kept = applyPatch(this.kept, diffSplit(this.kept, t.split))
      const present = sameSplit(split, kept) ? kept : split
      this.history = markRaw({ past: steps(this.history.past), present, future: steps(this.history.future) })
      this.kept = markRaw(kept)
      this.version = t.splitVersion
      this.clash(clashes)
    },
    /** Notes clashes, which stay until they are settled, over a reload as well. */
    clash(more: readonly Clash[]) {
      const again = new Set(more.map((c) => c.id))
      this.clashed = markRaw([...this.clashes.filter((c) => !again.has(c.id)), ...more])
      keepClashes(this.id, this.clashed)
    },
    /** Settles clashes: with what was changed here, as a step, or with what stands. */
    settle(list: readonly Clash[], mine: boolean) {
      const settled = new Set(list.map((c) => c.id))
      this.clashed = markRaw(this.clashed.filter((c) => !settled.has(c.id)))
      this.clash([])
      if (mine) this.step('took what was changed here', list.reduce(takeMine, this.split))
    },
    /** Takes a step in the history and saves it; while something is dragged, when it is dropped. */
    step(label: string, split: Split, dragging = false) {
      const next = push(this.history, label, split, dragging && this.dragging)
      if (next === this.history) return
      this.history = markRaw(next)
      this.dragging = dragging
      if (!dragging) void this.save()
    },
    /** What was dragged is dropped: the next drag is a step of its own. */
    drop() {
      if (!this.dragging) return
      this.dragging = false
      void this.save()
    },
    undo() {
      this.turnTo(undo(this.history))
    },
    redo() {
      this.turnTo(redo(this.history))
    },
    /** Goes to another state of the split; what was looked at is no step, and stays. */
    turnTo(history: History<Split>) {
      if (history === this.history) return
      this.dragging = false
      this.history = markRaw({ ...history, present: edit.withLooked(history.present, this.split) })
      void this.save()
    },
    /** Notes that the ends of regions were looked at, or that they were not after all. */
    lookAt(ids: readonly string[], right: boolean) {
      this.history = markRaw({ ...this.history, present: edit.lookAt(this.split, ids, right) })
      void this.save()
    },
    /** So that a reload before the server has it loses nothing. */
    keepUnsaved() {
      keepUnsaved(this.id, this.version, this)
    },
    async save() {
      this.unsaved = true
      this.keepUnsaved()
      if (this.saving) return
      this.saving = true
      const id = this.id
      const mine = () => this.id === id
      // what is saved belongs to this timeline, whatever is laid on the desk meanwhile
      let { version, kept } = this as { version: number; kept: Split }
      let before: Split | null = null
      try {
        while (mine() ? this.unsaved : leftBehind.has(id)) {
          const sending: Split = mine() ? this.split : leftBehind.get(id)!
          leftBehind.delete(id)
          if (mine()) {
            this.unsaved = false
            before = this.sent
            this.sent = markRaw(sending)
            this.keepUnsaved()
          }
          const made = await send(id, kept, sending, version)
          if (made !== null) {
            version = made
            kept = markRaw(sending)
            if (mine()) Object.assign(this, { version, kept })
            continue
          }
          // another window was quicker, or what was on its way before a reload came late
          const t = await newer(id, version)
          if (mine()) {
            this.takeUp(t, before)
            this.unsaved = !sameSplit(this.split, t.split)
          } else {
            const own = leftBehind.get(id) ?? sending
            const { split, clashes } = mergeSplits(kept, own, foreignPatch(kept, t.split, before))
            keepClashes(id, [...leftClashes(id), ...clashes])
            if (!sameSplit(split, t.split)) leftBehind.set(id, split)
          }
          version = t.splitVersion
          kept = mine() ? this.kept : t.split
        }
        forgetUnsaved(id)
      } catch (e) {
        useProblems().say(toProblem(e))
        // a change that could not be saved stays on the desk and is tried again with the next one, or in a while
        setTimeout(() => void (mine() && this.save()), 3000)
      } finally {
        if (mine()) this.saving = false
      }
    },
    /**
     * So that undo reaches back over a reload: as far as what the server has, since the rest is taken up as unsaved.
     * Written when the desk is left, not with every edit: it is megabytes where there are thousands of regions.
     */
    keepHistory() {
      const { past, present, future } = this.history
      // what was looked at since is no step
      const same = present === this.kept || sameSplit(edit.withLooked(present, this.kept), this.kept)
      const at = same ? past.length : past.findLastIndex((step) => step.value === this.kept)
      if (!this.id || at < 0) return
      const ahead = at === past.length ? future : []
      keepSteps(this.id, this.version, { past: past.slice(0, at), present: this.kept, future: ahead })
    },
    /** Goes so many steps back, or on. */
    jump(steps: number) {
      let history = this.history
      for (let n = 0; n < Math.abs(steps); n++) history = steps < 0 ? undo(history) : redo(history)
      this.turnTo(history)
    },
  },
})
