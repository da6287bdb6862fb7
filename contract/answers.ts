import { z } from 'zod'
import { filePathSchema } from '../core/media/filepath'
import { having } from '../core/having'
import type { SamePictures } from '../core/analysis/samepictures'
import { outletSchema, type Outlet } from '../core/deliverable/outlet'
import type { Problem } from '../core/problem'
import type { Abilities, Output } from '../core/recipe/output'
import type { Recipe } from '../core/recipe/recipe'
import type { RuleResult, Verdict } from '../core/spec/judge'
import type { Spec } from '../core/spec/spec'
import type { Became, Deliverable, DeliverableSummary, Trouble } from './deliverables'
import type { Entry, Folder, StorageRoot, WatchState } from './files'
import type { DeliverableChanges, DeliverableList } from './live'
import type { LogEntry } from './log'
import type { JoinAnswer, MachineInfo } from './machines'
import type { ReceivedFile } from './received'
import type { Finished, FinishedSummary, FrozenSince, Lane, RunDeliverable, RunSummary, RunView } from './runs'
import type { Shelf, ShelfTable } from './shelf'
import type { Tryout, TryoutState } from './tryouts'
import type { Likeness, ShownTimeline, SoundLevels, VersionChanges } from './timelines'

// What routes answer, as schemas: the server holds its answers to them in tests and while it is worked on. What core
// makes, and nobody else writes, is held by the fields that pages cannot do without.

const text = z.string()
const count = z.number().int().min(0)
const verdict: z.ZodType<Verdict> = z.enum(['pass', 'caution', 'fail', 'waived', 'unmeasured', 'later'])
const problem = having<Problem>('code', 'message')

export const done = z.object({ done: z.boolean() })
export const splitVersion = z.object({ version: count })
export const started = z.object({ id: text })
/** A file, a picture, sound, or events: not JSON. */
export const raw = z.unknown()
export const filePath = filePathSchema

const entry: z.ZodType<Entry> = z.object({
  ...{ name: text, path: text, folder: z.boolean(), size: z.number(), modified: z.number() },
})
const storageRoot: z.ZodType<StorageRoot> = z.object({
  ...{ name: text, path: text, free: z.number(), away: problem.nullable() },
})
export const folder: z.ZodType<Folder> = z.object({ roots: z.array(storageRoot), entries: z.array(entry) })
export const watchState: z.ZodType<WatchState> = z.object({
  folder: z.object({ root: text, path: text }).nullable(),
  problems: z.array(z.object({ file: text, problem })),
})

export const received: z.ZodType<readonly ReceivedFile[]> = z.array(
  z.object({
    ...{ path: text, size: count, state: z.enum(['unmeasured', 'waiting', 'judged', 'unreadable', 'absent']) },
    ...{
      share: z.number().nullable(),
      verdict: verdict.nullable(),
      misses: z.array(text),
      problem: problem.nullable(),
    },
  }),
)
/** The folder of files from elsewhere that is watched. */
export const watchedFolder = z.object({ folder: z.object({ root: text, path: text }).nullable() })
export const ruleResults = z.array(having<RuleResult>('rule', 'required', 'verdict', 'why'))

export const tryout: z.ZodType<Tryout> = z.object({
  ...{ id: text.nullable(), in: count, out: count, output: having<Output>('container', 'problems') },
})
export const tryoutState: z.ZodType<TryoutState> = z.object({
  state: z.enum(['waiting', 'making', 'made', 'failed', 'gone']),
  share: z.number(),
  problem: problem.nullable(),
  made: having<NonNullable<TryoutState['made']>>('bytes', 'seconds', 'pictures').nullable(),
})

export const log: z.ZodType<readonly LogEntry[]> = z.array(
  z.object({
    ...{ time: text, text, stack: text.nullable() },
    level: z.enum(['info', 'warning', 'error', 'fatal']),
    about: z.array(z.tuple([text, text])),
  }),
)

export const shelfTable: z.ZodType<ShelfTable> = z.object({ id: text, name: text, shape: text })

export const joined: z.ZodType<JoinAnswer> = z.object({
  ...{ id: text, installation: text },
  roots: z.array(z.object({ name: text, marker: text.nullable(), token: text.nullable() })),
})
/** What a call gives is known to who makes it. */
export const called = z.object({ value: z.unknown() })

const machine: z.ZodType<MachineInfo> = z.object({
  ...{ id: text, name: text, workers: count, since: text, done: count },
  ...{ writes: z.array(text), reads: z.array(text), unseen: z.array(text), lacks: z.array(text) },
})

export const shelf: z.ZodType<Shelf> = z.object({
  outlets: z.array(outletSchema as z.ZodType<Outlet>),
  recipes: z.array(having<Recipe>('kind', 'name')),
  specs: z.array(having<Spec>('id', 'name', 'rules')),
  tables: z.array(shelfTable),
  abilities: having<Abilities>('decodes', 'encodes'),
  workers: z.array(z.object({ pid: count, index: count })),
  workerTrouble: problem.nullable(),
  memory: count,
  machines: z.array(machine),
  damaged: z.array(problem),
})

const trouble: z.ZodType<Trouble> = z.object({
  ...{ rule: text, measure: text, verdict, blocks: z.boolean(), why: text },
})
const became: z.ZodType<Became> = z.object({ id: text, path: text, changed: z.array(text) })
const deliverableSummary: z.ZodType<DeliverableSummary> = z.object({
  ...{ timelineId: text, regionId: text, outletId: text, title: text, path: text, version: count },
  overrides: z.custom<DeliverableSummary['overrides']>((v) => typeof v === 'object' && v !== null),
  ...{ bytes: count, length: text, seconds: z.number().min(0) },
  memory: z.object({ shared: count, own: count }),
  ...{
    rough: z.boolean(),
    pictures: z.boolean(),
    trial: z.boolean(),
    reads: z.string().nullable(),
    codes: z.object({ sum: text, takenIn: z.number() }).nullable(),
    earlier: z.object({ id: text, path: text, madeIn: z.number() }).nullable(),
    cleared: z.boolean(),
    pending: z.boolean(),
    undecided: z.boolean(),
  },
  ...{ verdict, marks: text, fixable: z.array(count), trouble: z.array(trouble), became: became.nullable() },
  superseded: z.boolean(),
  underWay: z.string().nullable(),
})
export const deliverableList: z.ZodType<DeliverableList> = z.object({
  revision: count,
  list: z.array(deliverableSummary),
})
export const deliverableChanges: z.ZodType<DeliverableChanges> = z.object({
  ...{ revision: count, changed: z.array(deliverableSummary), removed: z.array(text) },
})
export const deliverable = having<Deliverable>('timelineId', 'regionId', 'outletId', 'results', 'output', 'recipe')

const runState = z.enum(['running', 'paused', 'stopped', 'done'])
const runDeliverable: z.ZodType<RunDeliverable> = z.object({
  ...{ id: text, title: text, region: text, outlet: text, timeline: text, path: text, doing: text },
  state: z.enum(['waiting', 'running', 'done', 'failed', 'skipped']),
  ...{ framesDone: count, framesTotal: count, seconds: z.number().min(0) },
  ...{ verdict: verdict.nullable(), problem: problem.nullable(), started: text.nullable(), finished: text.nullable() },
})
const lane: z.ZodType<Lane> = z.object({
  ...{ machine: text.nullable(), memory: count.nullable() },
  ...{ item: text, step: text, framesDone: count, framesTotal: count, since: z.number() },
})
export const runSummaries: z.ZodType<readonly RunSummary[]> = z.array(
  z.object({ id: text, name: text, state: runState, created: text, done: count, total: count }),
)
export const runView: z.ZodType<RunView> = z.object({
  ...{ id: text, name: text, state: runState, workers: count, created: text, finished: text.nullable() },
  ...{ items: z.array(runDeliverable), lanes: z.array(lane) },
  ...{ framesPerSecond: z.number().min(0), secondsLeft: z.number().min(0).nullable() },
})

export const frozenSince: z.ZodType<readonly FrozenSince[]> = z.array(
  z.object({ ...{ id: text, first: text, last: text, recipe: text }, changed: z.array(text).nullable() }),
)

export const handover: z.ZodType<readonly FinishedSummary[]> = z.array(
  z.object({
    ...{ id: text, path: text, region: text, outletId: text, outlet: text, verdict, bytes: count, finished: text },
    trial: z.boolean(),
  }),
)
export const finished = having<Finished>('item', 'proof', 'path', 'finished', 'run')

export const timeline = having<ShownTimeline>(
  ...(['id', 'show', 'name', 'file', 'fingerprint', 'info', 'model', 'problems', 'split', 'splitVersion'] as const),
  ...(['assembled', 'sources', 'mediaProblem', 'analysis', 'comparison'] as const),
)
export const timelines: z.ZodType<readonly ShownTimeline[]> = z.array(timeline)
export const soundLevels: z.ZodType<SoundLevels> = z.object({
  ...{ channels: count, rate: z.object({ num: count, den: count }), first: count },
  peaks: z.array(z.array(z.number())),
})
export const versionChanges: z.ZodType<VersionChanges | null> = having<VersionChanges>('against', 'changes').nullable()
export const likeness: z.ZodType<Likeness> = z.object({
  ...{ state: z.enum(['waiting', 'working', 'ready', 'failed']), share: z.number() },
  ...{ same: having<SamePictures>('older', 'newer').nullable(), problem: problem.nullable() },
})
