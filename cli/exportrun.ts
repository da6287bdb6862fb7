import path from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { summaryOf, type DeliverableSummary } from '../contract/deliverables'
import type { Finished, RunDeliverable } from '../contract/runs'
import type { JudgedDraft } from '../core/deliverable/judged'
import { keyText } from '../core/deliverable/outlet'
import { mainFile } from '../core/deliverable/proof'
import { chiefSum } from '../core/files/checksums'
import { mostMemory } from '../core/job/memory'
import { stepKind, stepText } from '../core/job/steps'
import { frameInFile, framesInFile, programmeFrames } from '../core/lineup/lineup'
import type { Step } from '../core/recipe/recipe'
import { ProblemError } from '../core/problem'
import { bytesText, plural, spanText } from '../core/text'
import { unitOf, type Frames } from '../core/time/rate'
import type { Session } from '../engine/session'
import { madeBefore } from './takeup'
import { Progress, verdictText } from './terminal'

/** Without workers nothing would ever be done. */
function needsWorkers({ pool }: Session): void {
  if (pool.trouble) throw new ProblemError(pool.trouble)
}

/** All deliverables, once everything is measured that decides about them. */
export async function measured(engine: Session): Promise<JudgedDraft[]> {
  for (;;) {
    needsWorkers(engine)
    const judged = await engine.nights.judged()
    if (!judged.some((d) => d.undecided)) return judged
    await sleep(150)
  }
}

/** The frames of the file that a step is of. */
function stepInFile({ draft, output }: JudgedDraft, { kind, range }: Step): { from: Frames; to: Frames } {
  if (stepKind(kind).ofFile) return { from: range.in, to: range.out }
  const first = frameInFile(output, range.in - draft.region.in)!
  return { from: first, to: first + framesInFile(output, range.out - range.in) }
}

/** What a night of some deliverables would take of so many workers. */
function forecastOf(list: readonly DeliverableSummary[], workers: number) {
  return {
    workers,
    /** By the paces of machines in general: nothing was done here before. */
    seconds: list.reduce((n, d) => n + d.seconds, 0) / workers,
    bytes: list.reduce((n, d) => n + d.bytes, 0),
    /** Bytes, of all workers together, at most. */
    memory: workers * mostMemory(list),
  }
}

/** Lists every step that would be taken, and what all would take; 1 when something would be kept out. */
export function dryRun(list: readonly JudgedDraft[], workers: number, to: string, json: boolean): number {
  const forecast = forecastOf(list.filter((d) => d.cleared).map(summaryOf), workers)
  const steps = list.map((d) => ({
    path: path.join(to, d.path),
    frames: d.output.frames,
    unit: unitOf(d.draft.timeline.model.rate),
    bytes: d.output.bytes,
    seconds: d.seconds,
    start: d.output.start.label,
    cleared: d.cleared,
    fails: d.results.filter((r) => r.blocks).map((r) => r.why),
    notes: d.output.notes ?? [],
    steps: d.steps.map((s) => ({
      key: s.key,
      does: stepText(s, d.draft.timeline.model.rate),
      needs: s.needs,
      ...stepInFile(d, s),
    })),
  }))
  if (json) process.stdout.write(`${JSON.stringify({ dryRun: true, forecast, deliverables: steps }, null, 2)}\n`)
  else {
    for (const s of steps) {
      const takes = `about ${bytesText(s.bytes)}, ${spanText(s.seconds)}`
      process.stdout.write(`${s.path}\n  ${plural(s.frames, s.unit)} from ${s.start}, ${takes}\n`)
      for (const f of s.fails) process.stdout.write(`  would be kept out: ${f}\n`)
      for (const n of s.notes) process.stdout.write(`  note: ${n}\n`)
      for (const t of s.steps) process.stdout.write(`  - ${t.key}: ${t.does}\n`)
    }
    if (forecast.bytes > 0)
      process.stdout.write(
        `About ${spanText(forecast.seconds)} with ${plural(workers, 'worker')}, ` +
          `${bytesText(forecast.bytes)} on the disk, up to ${bytesText(forecast.memory)} of memory.\n`,
      )
    process.stdout.write('Nothing was written.\n')
  }
  return steps.some((s) => !s.cleared) ? 1 : 0
}

/** Makes what is cleared and not there yet, and says of each what came of it; how many were not made. */
export async function execute(
  engine: Session,
  list: readonly JudgedDraft[],
  workers: number,
  to: string,
  json: boolean,
): Promise<number> {
  const before = await madeBefore(engine, list)
  const held = list.filter((d) => !d.cleared && !before.has(d))
  const why = (d: JudgedDraft) => d.results.filter((r) => r.blocks).map((r) => r.why)
  for (const d of held) process.stderr.write(`${d.title} stays behind: ${why(d).join(' ')}\n`)
  const outcome: Record<string, unknown>[] = held.map((d) => ({
    path: path.join(to, d.path),
    frames: d.output.frames,
    state: 'held',
    fails: why(d),
  }))
  let failed = held.length
  const tell = (finished: Finished) => {
    outcome.push(doneOf(finished, to))
    const { proof } = finished
    const sum = chiefSum(mainFile(proof).sums)?.sum ?? ''
    if (!json) process.stdout.write(`${verdictText(proof.verdict, 8)} ${path.join(to, finished.path)}  ${sum}\n`)
  }
  if (before.size > 0)
    process.stderr.write(`${plural(before.size, 'file')} of an earlier call, proven and unchanged; the rest is made.\n`)
  for (const finished of before.values()) tell(finished)
  const going = list.filter((d) => d.cleared && !before.has(d))
  if (going.length > 0)
    failed += await runNight(engine, workers, going, (item, finished) => {
      if (finished) {
        tell(finished)
        return
      }
      outcome.push({ path: path.join(to, item.path), state: item.state, error: item.problem })
      if (json) return
      if (item.problem) process.stderr.write(`${item.title}: ${item.problem.message} ${item.problem.fix ?? ''}\n`)
    })
  if (json) process.stdout.write(`${JSON.stringify({ deliverables: outcome }, null, 2)}\n`)
  if (failed > 0 && failed < list.length)
    process.stderr.write(`${plural(failed, 'file')} not made. The same call makes what is missing.\n`)
  return failed
}

/** Runs the night and gives each deliverable as it ends, in the order of the sheet; how many were not made. */
async function runNight(
  engine: Session,
  workers: number,
  going: readonly JudgedDraft[],
  ended: (item: RunDeliverable, finished: Finished | null) => void,
): Promise<number> {
  const keys = going.map((d) => keyText(d.draft.key))
  const run = await engine.nights.start('export', workers, keys)
  const progress = new Progress()
  let next = 0
  let failed = 0
  for (;;) {
    needsWorkers(engine)
    const view = await engine.progress.view(run)
    for (; next < view.items.length && isEnded(view.items[next]!); next++) {
      const item = view.items[next]!
      const finished = await engine.handover.one(item.id)
      if (!finished) failed++
      progress.clear()
      ended(item, finished)
    }
    if (view.state === 'done') return failed
    const sum = (of: (i: RunDeliverable) => number) => view.items.reduce((n, i) => n + of(i), 0)
    progress.tell(
      sum((i) => i.framesDone),
      sum((i) => i.framesTotal),
    )
    await sleep(150)
  }
}

const isEnded = (i: RunDeliverable) => i.state === 'done' || i.state === 'failed' || i.state === 'skipped'

const doneOf = ({ path: file, item, proof }: Finished, to: string): Record<string, unknown> => ({
  path: path.join(to, file),
  frames: programmeFrames(item.output),
  state: 'done',
  verdict: proof.verdict,
  checksums: mainFile(proof).sums,
  verdicts: proof.results.map((r) => ({
    id: r.rule.id,
    measure: r.rule.measure,
    required: r.required,
    written: r.written?.text ?? null,
    verdict: r.verdict,
  })),
})
