import { readdirSync } from 'node:fs'
import path from 'node:path'
import { expect, it } from 'vitest'
import { answerSchemaOf, bodySchemaOf, methodsOf, routes } from '../contract/routes'

const folder = path.resolve(import.meta.dirname, '..', 'server', 'api')

/** Routes as the server's files are named: `timelines/[id]/split.patch.ts`. */
function served(): Record<string, string[]> {
  const out: Record<string, string[]> = {}
  for (const file of readdirSync(folder, { recursive: true }).map(String)) {
    const m = /^(.*)\.(get|put|post|patch|delete)\.ts$/.exec(file.split(path.sep).join('/'))
    if (!m) continue
    const route = m[1]!.replace(/(^|\/)index$/, '').replace(/\[(\w+)\]/g, ':$1')
    out[route] = [...(out[route] ?? []), m[2]!.toUpperCase()].sort()
  }
  return out
}

it('the contract names every route that the server has, with its methods', () => {
  expect(served()).toEqual(Object.fromEntries(Object.keys(routes).map((path) => [path, methodsOf(path)])))
})

it('metadata of a region has a limit, in fields and in letters', () => {
  const takes = (metadata: Record<string, string>) => {
    const region = { id: 'r', name: '', in: 0, out: 1, metadata }
    const patch = { regions: [region], markers: [], removed: [] }
    return bodySchemaOf('PATCH timelines/:id/split')!.safeParse({ version: 1, patch }).success
  }
  const fields = (n: number) => Object.fromEntries(Array.from({ length: n }, (_, i) => [`f${i}`, 'x']))
  expect([{}, fields(100), { a: 'x'.repeat(4000) }].map(takes)).toEqual([true, true, true])
  expect([fields(101), { a: 'x'.repeat(4001) }, { ['n'.repeat(101)]: '' }, { '': 'x' }].map(takes)).toEqual([
    ...[false, false, false, false],
  ])
})

it('a path has the methods of the route that names it most closely', () => {
  expect(methodsOf('runs/r1')).toEqual(['GET', 'POST'])
  expect(methodsOf('runs/deliverables/x')).toEqual(['POST'])
  expect([methodsOf('runs/a/b/c'), methodsOf('dreams')]).toEqual([null, null])
})

it('an answer that lacks what a page cannot do without does not fit the contract', () => {
  const run = { id: 'r', name: 'n', state: 'done', created: '', done: 1, total: 2 }
  expect(answerSchemaOf('GET runs').safeParse([run]).success).toBe(true)
  expect(answerSchemaOf('GET runs').safeParse([{ ...run, state: 'asleep' }]).success).toBe(false)
  expect(answerSchemaOf('GET runs').safeParse([{ ...run, done: '1' }]).success).toBe(false)
  expect(answerSchemaOf('GET timelines/:id').safeParse({ id: 't', show: 's' }).success).toBe(false)
  expect(answerSchemaOf('GET timelines/:id/changes').safeParse(null).success).toBe(true)
})
