import type { z } from 'zod'
import { outletSchema } from '../core/deliverable/outlet'
import type { FilePath } from '../core/media/filepath'
import { specSchema } from '../core/spec/spec'
import { deliverableChangeSchema, type Deliverable } from './deliverables'
import { watchSchema, type Folder, type WatchState } from './files'
import type { DeliverableChanges, DeliverableList } from './live'
import type { LogEntry } from './log'
import {
  runChangeSchema,
  runDeliverableChangeSchema,
  runStartSchema,
  type Finished,
  type FinishedSummary,
  type RunSummary,
  type RunView,
} from './runs'
import type { Shelf } from './shelf'
import {
  bringInSchema,
  relinkSchema,
  splitPatchSchema,
  splitPutSchema,
  timelinePatchSchema,
  type ShownTimeline,
  type VersionChanges,
} from './timelines'

/** What a method of a route takes, and, as a type only, what it answers. */
interface Method<B extends z.ZodType | null, A> {
  /** Checks the body; null where there is none. */
  readonly body: B
  readonly answers?: A
}
/** A method without a body. */
const gives = <A>(): Method<null, A> => ({ body: null })
/** A method with a body. */
const takes = <A>() => ({ with: <B extends z.ZodType>(body: B): Method<B, A> => ({ body }) })

/** Nothing is to be told but that it was done. */
interface Done {
  readonly done: boolean
}
interface SplitVersion {
  readonly version: number
}
/** A file, a picture, sound, or events: not JSON. */
type Raw = unknown

/** Every route of the server below `/api/`, by its methods. What is not here is answered 404, else 405. */
export const routes = {
  deliverables: {
    GET: gives<DeliverableList>(),
    POST: takes<DeliverableChanges>().with(deliverableChangeSchema),
  },
  'deliverables/:timeline/:region/:outlet': { GET: gives<Deliverable>() },
  files: { GET: gives<Folder>() },
  handover: { GET: gives<readonly FinishedSummary[]>() },
  'handover/:id': { GET: gives<Finished>() },
  'handover/files/:id': { GET: gives<Raw>() },
  'handover/stills/:name': { GET: gives<Raw>() },
  live: { GET: gives<Raw>() },
  log: { GET: gives<readonly LogEntry[]>() },
  outlets: { GET: gives<Shelf>(), PUT: takes<Done>().with(outletSchema) },
  'outlets/:id': { DELETE: gives<Done>() },
  runs: { GET: gives<readonly RunSummary[]>(), POST: takes<{ readonly id: string }>().with(runStartSchema) },
  'runs/:id': { GET: gives<RunView>(), POST: takes<Done>().with(runChangeSchema) },
  'runs/:id/sheet': { GET: gives<Raw>() },
  'runs/deliverables/:id': { POST: takes<Done>().with(runDeliverableChangeSchema) },
  specs: { POST: takes<Done>().with(specSchema) },
  'specs/:id': { DELETE: gives<Done>() },
  timelines: { GET: gives<readonly ShownTimeline[]>(), POST: takes<ShownTimeline>().with(bringInSchema) },
  'timelines/:id': {
    DELETE: gives<Done>(),
    GET: gives<ShownTimeline>(),
    PATCH: takes<ShownTimeline>().with(timelinePatchSchema),
  },
  'timelines/:id/changes': { GET: gives<VersionChanges | null>() },
  'timelines/:id/frames/:frame': { GET: gives<Raw>() },
  'timelines/:id/link': { POST: takes<ShownTimeline>().with(relinkSchema) },
  'timelines/:id/sound': { GET: gives<Raw>() },
  'timelines/:id/split': {
    PATCH: takes<SplitVersion>().with(splitPatchSchema),
    PUT: takes<SplitVersion>().with(splitPutSchema),
  },
  upload: { PUT: gives<FilePath>() },
  watch: { GET: gives<WatchState>(), PUT: takes<WatchState>().with(watchSchema) },
}

type Routes = typeof routes
export type RoutePath = keyof Routes
/** A route by its method and path, as `GET timelines/:id`. */
export type RouteName = { [P in RoutePath]: `${keyof Routes[P] & string} ${P}` }[RoutePath]
type MethodOf<R extends RouteName> = R extends `${infer M} ${infer P extends RoutePath}`
  ? M extends keyof Routes[P]
    ? Routes[P][M]
    : never
  : never

/** What a route answers. */
export type AnswerOf<R extends RouteName> = MethodOf<R> extends Method<infer _, infer A> ? A : never
/** Whoever sends something does not care whether it may be changed. */
type Sent<T> = T extends object ? { readonly [K in keyof T]: Sent<T[K]> } : T
/** What is sent to a route; undefined where nothing is. */
export type BodyOf<R extends RouteName> =
  MethodOf<R> extends Method<infer B, infer _> ? (B extends z.ZodType ? Sent<z.input<B>> : undefined) : never
/** What a route gets of a body, checked and with its defaults. */
export type CheckedBodyOf<R extends RouteName> =
  MethodOf<R> extends Method<infer B, infer _> ? (B extends z.ZodType ? z.output<B> : undefined) : never
type Names<P extends string> = P extends `${string}:${infer N}/${infer Rest}`
  ? N | Names<Rest>
  : P extends `${string}:${infer N}`
    ? N
    : never
/** The variable parts of a route's path. */
export type ParamsOf<R extends RouteName> = { readonly [N in Names<R>]: string }

/** The schema that a route's body is checked by; null where it takes none. */
export function bodySchemaOf(name: RouteName): z.ZodType | null {
  const [method, path] = name.split(' ') as [string, RoutePath]
  return (routes[path] as Record<string, Method<z.ZodType | null, unknown>>)[method]!.body
}

/** The methods that a path takes; null when there is no such route. A route without parameters goes first. */
export function methodsOf(path: string): readonly string[] | null {
  const parts = path.split('/')
  const fits = (pattern: string) => {
    const wanted = pattern.split('/')
    return wanted.length === parts.length && wanted.every((w, i) => w.startsWith(':') || w === parts[i])
  }
  const found = Object.keys(routes)
    .filter(fits)
    .sort((a, b) => a.split(':').length - b.split(':').length)[0]
  return found === undefined ? null : Object.keys(routes[found as RoutePath]).sort()
}
