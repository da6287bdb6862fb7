import type { z } from 'zod'
import { outletSchema } from '../core/deliverable/outlet'
import { specSchema } from '../core/spec/spec'
import * as answers from './answers'
import { deliverableChangeSchema } from './deliverables'
import { watchSchema } from './files'
import { foundRootsSchema, joinSchema, machineCallSchema } from './machines'
import { receivedSchema } from './received'
import { runChangeSchema, runDeliverableChangeSchema, runStartSchema } from './runs'
import { tableSchema } from './shelf'
import { tryoutSchema } from './tryouts'
import { bringInSchema, relinkSchema, splitPatchSchema, splitPutSchema, timelinePatchSchema } from './timelines'

/** What a method of a route takes and answers. */
interface Method<B extends z.ZodType | null, A extends z.ZodType> {
  /** Checks the body; null where there is none. */
  readonly body: B
  readonly answer: A
}
/** A method without a body. */
const gives = <A extends z.ZodType>(answer: A): Method<null, A> => ({ body: null, answer })
/** A method with a body. */
const takes = <B extends z.ZodType, A extends z.ZodType>(body: B, answer: A): Method<B, A> => ({ body, answer })

/** Every route of the server below `/api/`, by its methods. What is not here is answered 404, else 405. */
export const routes = {
  deliverables: {
    GET: gives(answers.deliverableList),
    POST: takes(deliverableChangeSchema, answers.deliverableChanges),
  },
  'deliverables/:timeline/:region/:outlet': { GET: gives(answers.deliverable) },
  'deliverables/:timeline/:region/:outlet/line-up': { GET: gives(answers.raw) },
  files: { GET: gives(answers.folder) },
  handover: { GET: gives(answers.handover) },
  'handover/:id': { GET: gives(answers.finished) },
  'handover/files/:id': { GET: gives(answers.raw) },
  'handover/stills/:name': { GET: gives(answers.raw) },
  live: { GET: gives(answers.raw) },
  log: { GET: gives(answers.log) },
  machines: { POST: takes(joinSchema, answers.joined) },
  'machines/:id': { DELETE: gives(answers.done), PUT: takes(foundRootsSchema, answers.done) },
  'machines/:id/calls': { POST: takes(machineCallSchema, answers.called) },
  outlets: { GET: gives(answers.shelf), PUT: takes(outletSchema, answers.done) },
  'outlets/:id': { DELETE: gives(answers.done) },
  received: { GET: gives(answers.received), POST: takes(receivedSchema, answers.done) },
  'received/watch': { GET: gives(answers.watchedFolder), PUT: takes(watchSchema, answers.watchedFolder) },
  'received/file': { GET: gives(answers.ruleResults) },
  'received/bytes': { GET: gives(answers.raw) },
  runs: { GET: gives(answers.runSummaries), POST: takes(runStartSchema, answers.started) },
  'runs/:id': { GET: gives(answers.runView), POST: takes(runChangeSchema, answers.done) },
  'runs/:id/again': { POST: gives(answers.started) },
  'runs/:id/since': { GET: gives(answers.frozenSince) },
  'runs/:id/sheet': { GET: gives(answers.raw) },
  'runs/deliverables/:id': { POST: takes(runDeliverableChangeSchema, answers.done) },
  specs: { POST: takes(specSchema, answers.done) },
  'specs/:id': { DELETE: gives(answers.done) },
  tables: { POST: takes(tableSchema, answers.shelfTable) },
  'tables/:id': { DELETE: gives(answers.done) },
  timelines: { GET: gives(answers.timelines), POST: takes(bringInSchema, answers.timeline) },
  'timelines/:id': {
    DELETE: gives(answers.done),
    GET: gives(answers.timeline),
    PATCH: takes(timelinePatchSchema, answers.timeline),
  },
  'timelines/:id/changes': { GET: gives(answers.versionChanges) },
  'timelines/:id/frames/:frame': { GET: gives(answers.raw) },
  'timelines/:id/levels': { GET: gives(answers.soundLevels) },
  'timelines/:id/likeness': { GET: gives(answers.likeness) },
  'timelines/:id/link': { POST: takes(relinkSchema, answers.timeline) },
  'timelines/:id/media': { GET: gives(answers.raw) },
  'timelines/:id/sound': { GET: gives(answers.raw) },
  'timelines/:id/split': {
    PATCH: takes(splitPatchSchema, answers.splitVersion),
    PUT: takes(splitPutSchema, answers.splitVersion),
  },
  tryouts: { POST: takes(tryoutSchema, answers.tryout) },
  'tryouts/:id': { DELETE: gives(answers.done), GET: gives(answers.tryoutState) },
  'tryouts/:id/frames/:frame': { GET: gives(answers.raw) },
  upload: { PUT: gives(answers.filePath) },
  watch: { GET: gives(answers.watchState), PUT: takes(watchSchema, answers.watchState) },
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
export type AnswerOf<R extends RouteName> = MethodOf<R> extends Method<infer _, infer A> ? z.output<A> : never
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
  return (routes[path] as Record<string, Method<z.ZodType | null, z.ZodType>>)[method]!.body
}

/** The schema that a route's answer fits. */
export function answerSchemaOf(name: RouteName): z.ZodType {
  const [method, path] = name.split(' ') as [string, RoutePath]
  return (routes[path] as Record<string, Method<z.ZodType | null, z.ZodType>>)[method]!.answer
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
