import { mkdtempSync } from 'node:fs'
import { mkdir, rm } from 'node:fs/promises'
import { availableParallelism, tmpdir } from 'node:os'
import path from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { defineCommand } from 'citty'
import { fail, ProblemError } from '../core/problem'
import { keyText } from '../core/deliverable/outlet'
import type { JudgedDraft } from '../core/deliverable/judged'
import { stepText } from '../core/job/steps'
import type { Overrides, Recipe } from '../core/recipe/recipe'
import { overridesSchema, recipeKind, shippedRecipes } from '../core/recipe/registry'
import { settingValue, type Setting } from '../core/recipe/settings'
import { openSpec } from '../core/spec/shipped'
import { asksAboutContent, type Spec } from '../core/spec/spec'
import type { NamedRange } from '../core/split/makers/maker'
import { rangesBy } from '../core/split/makers/registry'
import { usualPatience } from '../engine/runs/away'
import { Session, type SessionOptions } from '../engine/session'
import { bytesText, plural } from '../core/text'
import { mainFile, type Proof } from '../core/deliverable/proof'
import { attempt } from './attempt'
import { readText } from './timeline'
import { findSpec } from './check'
import { every, mediaRoots, pairs, readRate, readWaivers } from './arguments'
import { countFinished, folderOfCall, forgetUnfinished, madeBefore } from './takeup'
import { Progress, verdictText, whenToldToEnd } from './terminal'
import type { Finished, RunDeliverable } from '../contract/runs'

/** `--set KEY=VALUE` values as recipe settings; names the key that is wrong. */
export function readSettings(list: readonly string[], recipe: Recipe): Overrides {
  const has = recipeKind(recipe).settings
  const out: Record<string, unknown> = {}
  for (const item of list) {
    const m = /^([A-Za-z]+)=(.*)$/.exec(item)
    const key = m?.[1] as Setting | undefined
    if (!m || !key || !has.includes(key))
      fail(
        'set.unknown',
        `“${item}” is not a setting of ${recipe.name}.`,
        '--set',
        `Its settings are: ${has.join(', ')}.`,
      )
    out[key] = settingValue(key, m[2]!)
  }
  const parsed = overridesSchema.safeParse(out)
  if (!parsed.success)
    fail(
      'set.invalid',
      `${parsed.error.issues[0]!.path.join('.')}: ${parsed.error.issues[0]!.message}`,
      '--set',
      'Correct the value.',
    )
  return parsed.data
}

export const exportCommand = defineCommand({
  meta: { name: 'export', description: 'Export regions of a media file or a timeline, checked and proven.' },
  args: {
    source: {
      type: 'positional',
      required: true,
      description: 'media file, or a timeline of many sources with --media',
    },
    media: { type: 'string', description: 'folder to look for the media of a timeline in; may be repeated' },
    recipe: { type: 'string', required: true, description: 'rewrap, master, viewing or sound' },
    to: { type: 'string', required: true, description: 'folder for the files' },
    regions: {
      type: 'string',
      description: 'CSV with the header name,in,out; also outlet, chapters; further columns are metadata',
    },
    cuts: { type: 'string', description: 'edit decision list; without --regions each of its events is a region' },
    rate: { type: 'string', description: 'frame rate of a list that does not say its own, such as 25 or 30000/1001' },
    outlet: { type: 'string', description: 'specification to hold the files against' },
    name: { type: 'string', description: 'name pattern', default: '{number}_{region}' },
    set: { type: 'string', description: 'KEY=VALUE of the recipe; may be repeated' },
    'dry-run': { type: 'boolean', description: 'list every step and write nothing' },
    paper: { type: 'string', description: "metadata of every region, as 'production number=FA-101'; may be repeated" },
    waive: { type: 'string', description: 'RULE=REASON, accepted for every file; may be repeated' },
    initials: { type: 'string', description: 'who accepts what is waived' },
    workers: { type: 'string', description: 'worker processes' },
    wait: { type: 'string', description: 'minutes to wait for a drive that is away', default: String(usualPatience) },
    anew: { type: 'boolean', description: 'make every file, also those that a call that was cut off has made' },
    json: { type: 'boolean', description: 'as JSON' },
  },
  run: ({ args }) =>
    attempt(async () => {
      const recipe = readRecipe(args.recipe)
      const workers = readWorkers(args.workers)
      const patience = readPatience(args.wait)
      const spec = args.outlet === undefined ? openSpec : await findSpec(args.outlet)
      const source = path.resolve(args.source)
      const to = path.resolve(args.to)
      const dry = args['dry-run'] === true
      // a source that is not there is said before anything is made
      const media = mediaRoots(source, every('--media'))
      if (!dry) await mkdir(to, { recursive: true })
      const data = dry
        ? mkdtempSync(path.join(tmpdir(), 'velvet-export-'))
        : folderOfCall(process.argv.slice(2), process.cwd())
      if (args.anew) await rm(data, { recursive: true, force: true })
      // nothing may be written by a dry run: the destination stands for itself only when it is there
      const engine = await openAgain(data, {
        data,
        roots: [
          ...media,
          { name: 'to', path: to },
          ...(args.cuts ? [{ name: 'cuts', path: path.dirname(path.resolve(args.cuts)) }] : []),
        ],
        workers: 0,
        // the pass over the pictures costs as much as decoding them: it is made where its figures decide
        analyse: asksAboutContent(spec),
        patience,
      })
      let whole = false
      const putAway = async () => {
        const left = !whole && !dry && (await countFinished(engine)) > 0
        await engine.close()
        if (!left) await rm(data, { recursive: true, force: true })
      }
      let told = false
      const stay = whenToldToEnd(async () => {
        told = true
        // what is half made leaves nothing at the destination, once nobody writes into it any more
        await engine.pool.stop()
        await forgetUnfinished(engine)
        await putAway()
      })
      try {
        await forgetUnfinished(engine)
        await lay(engine, source, args, { recipe, spec, name: args.outlet ?? 'export', pattern: args.name })
        engine.pool.start(workers)
        const judged = await measured(engine)
        if (dry) return dryRun(judged, to, args.json === true)
        const failed = await execute(engine, judged, workers, to, args.json === true)
        whole = failed === 0
        return whole ? 0 : 1
      } finally {
        // who was told to end puts everything away and ends the process
        if (told) await new Promise(() => undefined)
        stay()
        await putAway()
      }
    }),
})

/** Opens what an earlier call left behind; what that broke off in the middle of is begun anew. */
async function openAgain(data: string, options: SessionOptions): Promise<Session> {
  try {
    return await Session.open(options)
  } catch (e) {
    if (!(e instanceof ProblemError) || e.problem.code !== 'data.damaged') throw e
    await rm(data, { recursive: true, force: true })
    return Session.open(options)
  }
}

function readRecipe(name: string): Recipe {
  const recipes = shippedRecipes()
  const base =
    recipes.find((r) => r.kind === name || r.name.toLowerCase() === name.toLowerCase()) ??
    fail(
      'recipe.unknown',
      `There is no recipe called “${name}”.`,
      '--recipe',
      `The recipes are: ${recipes.map((r) => r.kind).join(', ')}.`,
    )
  return { ...base, ...readSettings(every('--set'), base) }
}

function readPatience(text: string): number {
  const minutes = Number(text)
  if (!Number.isInteger(minutes) || minutes < 0)
    fail('usage', `“${text}” is not a number of minutes.`, '--wait', 'Give whole minutes.')
  return minutes
}

function readWorkers(text: string | undefined): number {
  const workers = text === undefined ? availableParallelism() : Number(text)
  if (!Number.isInteger(workers) || workers < 1 || workers > 64)
    fail('workers.invalid', `“${text}” is not a number of workers.`, '--workers', 'Give a number from 1 to 64.')
  return workers
}

/** Brings the source in, splits it, and chooses every region for the one outlet there is. */
async function lay(
  engine: Session,
  source: string,
  args: {
    readonly rate?: string
    readonly cuts?: string
    readonly regions?: string
    readonly outlet?: string
    readonly initials?: string
  },
  outlet: { readonly name: string; readonly recipe: Recipe; readonly spec: Spec; readonly pattern: string },
): Promise<void> {
  const t = await engine.timelines.bringIn(
    { root: 'timeline', path: path.basename(source) },
    {
      show: path.basename(path.dirname(source)) || 'export',
      ...(args.rate ? { rate: readRate(args.rate) } : {}),
      ...(args.cuts ? { cuts: { root: 'cuts', path: path.basename(args.cuts) } } : {}),
    },
  )
  for (const p of [...t.problems, ...(t.linking?.sources ?? []).map((s) => s.problem).filter((p) => p !== null)])
    process.stderr.write(`${p.where ?? ''}: ${p.message}\n`)
  const list = args.regions && { text: await readText(args.regions), fileName: args.regions }
  const way = list ? 'list' : args.cuts ? 'events' : 'whole'
  const listed = rangesBy(way, { timeline: t.model, ...(list ? { list } : {}) })
  const ranges = listed.filter((r) => goesTo(r, args.outlet))
  if (ranges.length < listed.length)
    process.stderr.write(`${plural(listed.length - ranges.length, 'region')} of the list not for ${args.outlet}.\n`)
  const metadata = pairs('--paper')
  const regions = ranges.map((r, i) => ({
    id: `r${i + 1}`,
    ...{ name: r.name, in: r.in, out: r.out },
    metadata: { ...metadata, ...r.metadata },
  }))
  const markers = ranges.flatMap((r) => r.chapters ?? []).map((c, i) => ({ id: `m${i + 1}`, ...c }))
  await engine.timelines.saveSplit(t.id, { regions, markers }, t.splitVersion)
  const { spec } = outlet
  if (spec !== openSpec && !(await engine.outlets.specs()).some((s) => s.id === spec.id))
    await engine.outlets.saveSpec(spec)
  await engine.outlets.save({ ...outlet, id: 'cli', spec: spec.id, root: 'to', folder: '' })
  const keys = regions.map((r) => ({ timelineId: t.id, regionId: r.id, outletId: 'cli' }))
  await engine.outlets.choose(keys, true)
  for (const waiver of readWaivers(spec, args.initials)) await engine.outlets.waive(keys, waiver)
}

/** Without workers nothing would ever be done. */
function needsWorkers({ pool }: Session): void {
  if (pool.trouble) throw new ProblemError(pool.trouble)
}

/** Whether a list sends a region to the outlet that is exported for; where nothing is said, it does. */
const goesTo = ({ outlets }: NamedRange, outlet: string | undefined) =>
  outlet === undefined || !outlets || outlets.some((o) => o.toLowerCase() === outlet.toLowerCase())

/** All deliverables, once everything is measured that decides about them. */
async function measured(engine: Session): Promise<JudgedDraft[]> {
  for (;;) {
    needsWorkers(engine)
    const judged = await engine.nights.judged()
    if (!judged.some((d) => d.undecided)) return judged
    await sleep(150)
  }
}

function dryRun(list: readonly JudgedDraft[], to: string, json: boolean): number {
  const steps = list.map((d) => ({
    path: path.join(to, d.path),
    frames: d.output.frames,
    bytes: d.output.bytes,
    start: d.output.start.label,
    cleared: d.cleared,
    fails: d.results.filter((r) => r.blocks).map((r) => r.why),
    notes: d.output.notes ?? [],
    steps: d.draft.steps.map((s) => ({
      key: s.key,
      does: stepText(s),
      needs: s.needs,
      from: s.range.in - d.draft.region.in,
      to: s.range.out - d.draft.region.in,
    })),
  }))
  if (json) process.stdout.write(`${JSON.stringify({ dryRun: true, deliverables: steps }, null, 2)}\n`)
  else {
    for (const s of steps) {
      process.stdout.write(`${s.path}\n  ${plural(s.frames, 'frame')} from ${s.start}, about ${bytesText(s.bytes)}\n`)
      for (const f of s.fails) process.stdout.write(`  would be kept out: ${f}\n`)
      for (const n of s.notes) process.stdout.write(`  note: ${n}\n`)
      for (const t of s.steps) process.stdout.write(`  - ${t.key}: ${t.does}\n`)
    }
    process.stdout.write('Nothing was written.\n')
  }
  return steps.some((s) => !s.cleared) ? 1 : 0
}

async function execute(
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
    const sum = mainFile(proof).sha256
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
    const view = await engine.runs.view(run)
    for (; next < view.items.length && isEnded(view.items[next]!); next++) {
      const item = view.items[next]!
      const finished = await engine.runs.proof(item.id)
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
  frames: item.region.out - item.region.in,
  state: 'done',
  verdict: proof.verdict,
  checksums: sumsOf(proof),
  verdicts: proof.results.map((r) => ({
    id: r.rule.id,
    measure: r.rule.measure,
    required: r.required,
    written: r.written?.text ?? null,
    verdict: r.verdict,
  })),
})

const sumsOf = (proof: Proof) => {
  const { sha256, xxh64 } = mainFile(proof)
  return { sha256, xxh64 }
}
