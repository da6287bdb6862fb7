import { mkdirSync, readFileSync, readdirSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { beforeAll, describe, expect, it } from 'vitest'
import { reelEdl } from '../demo/reel'
import { application, served } from './browser'
import { smallReel } from './fixtures'

// The routes of the running server, asked as a browser asks and as none would: whatever comes, the answer is a result
// or a Problem, and the server goes on.

let id: string
const { storage } = application(async () => {
  mkdirSync(path.join(storage, 'Ferry'))
  const plan = await smallReel(path.join(storage, 'Ferry', 'reel.mov'))
  writeFileSync(path.join(storage, 'Ferry', 'reel.edl'), reelEdl(plan, 'REEL'))
})
beforeAll(async () => {
  const t = await ask('POST', 'timelines', {
    media: { root: 'storage', path: 'Ferry/reel.mov' },
    cuts: { root: 'storage', path: 'Ferry/reel.edl' },
  })
  id = (t.body as { id: string }).id
})

interface Answer {
  readonly status: number
  readonly type: string
  readonly body: unknown
}
async function ask(
  method: string,
  route: string,
  body?: unknown,
  headers: Record<string, string> = {},
): Promise<Answer> {
  const r = await fetch(`${served.url}/api/${route}`, {
    method,
    headers: { ...(body === undefined ? {} : { 'content-type': 'application/json' }), ...headers },
    ...(body === undefined ? {} : { body: typeof body === 'string' ? body : JSON.stringify(body) }),
  })
  const type = r.headers.get('content-type') ?? ''
  return { status: r.status, type, body: type.includes('json') ? await r.json() : Buffer.from(await r.arrayBuffer()) }
}
const wav = (bytes: unknown) => (bytes as Buffer).subarray(0, 4).toString()

describe('a timeline over HTTP', () => {
  it('is listed with what was understood', async () => {
    const { body } = await ask('GET', 'timelines')
    expect(body).toMatchObject([
      { id, name: 'reel', show: 'Ferry', assembled: false, mediaProblem: null, model: { length: 120 } },
    ])
  })
  it('gives pictures of any frame, no wider than asked', async () => {
    for (const [frame, width] of [
      [0, 160],
      [119, 480],
      [60, 1040],
    ]) {
      const { status, type, body } = await ask('GET', `timelines/${id}/frames/${frame}.jpg?w=${width}`)
      expect([status, type]).toEqual([200, 'image/jpeg'])
      expect((body as Buffer).subarray(0, 2)).toEqual(Buffer.from([0xff, 0xd8]))
    }
  })
  it('gives the sound of a range', async () => {
    const { status, type, body } = await ask('GET', `timelines/${id}/sound?from=10&to=35`)
    expect([status, type, wav(body)]).toEqual([200, 'audio/wav', 'RIFF'])
  })
  it('keeps its split by version, renames, moves its cuts', async () => {
    const region = { id: 'r', name: 'Dawn', in: 0, out: 50, metadata: {} }
    expect(
      await ask('PUT', `timelines/${id}/split`, { version: 1, split: { regions: [region], markers: [] } }),
    ).toMatchObject({ status: 200, body: { version: 2 } })
    expect(
      await ask('PUT', `timelines/${id}/split`, { version: 1, split: { regions: [], markers: [] } }),
    ).toMatchObject({ status: 409, body: { error: { code: 'split.moved-on' } } })
    expect(await ask('PATCH', `timelines/${id}`, { name: 'First reel', cutsOffset: 1 })).toMatchObject({
      status: 200,
      body: { name: 'First reel', cutsOffset: 1, split: { regions: [region] } },
    })
    await ask('PATCH', `timelines/${id}`, { name: 'reel', cutsOffset: 0 })
  })
})

describe('requests that cannot be met', () => {
  const region = { id: 'r', name: '', in: 0, out: 50, metadata: {} }
  it.each<[string, string, unknown, number, string]>([
    ['GET', 'timelines/nobody/frames/0.jpg', undefined, 404, 'timeline.unknown'],
    ['GET', 'timelines/ID/frames/120.jpg', undefined, 400, 'frame.outside'],
    ['GET', 'timelines/ID/frames/-1.jpg', undefined, 400, 'frame.outside'],
    ['GET', 'timelines/ID/frames/first.jpg', undefined, 400, 'frame.outside'],
    ['GET', 'timelines/ID/sound?from=9&to=3', undefined, 400, 'frame.outside'],
    ['GET', 'timelines/ID/sound', undefined, 400, 'frame.outside'],
    ['POST', 'timelines', { media: { root: 'storage', path: '../x.mov' } }, 403, 'root.outside'],
    ['POST', 'timelines', { media: { root: 'attic', path: 'x.mov' } }, 403, 'root.unknown'],
    ['POST', 'timelines', { media: { root: 'storage', path: 'Ferry/nothing.mov' } }, 404, 'file.missing'],
    ['POST', 'timelines', { media: { root: 'storage' } }, 400, 'request.invalid'],
    ['POST', 'timelines', {}, 400, 'request.invalid'],
    ['POST', 'timelines', { media: { root: 'storage', path: 'Ferry/reel.mov' } }, 409, 'timeline.same-name'],
    [
      'PUT',
      'timelines/ID/split',
      { version: 2, split: { regions: [{ ...region, out: 0 }], markers: [] } },
      400,
      'request.invalid',
    ],
    [
      'PUT',
      'timelines/ID/split',
      { version: 2, split: { regions: [{ ...region, in: 0.5 }], markers: [] } },
      400,
      'request.invalid',
    ],
    [
      'PUT',
      'timelines/ID/split',
      { version: 2, split: { regions: [region], markers: [{ id: 'm', at: -1, name: '' }] } },
      400,
      'request.invalid',
    ],
    ['PATCH', 'timelines/ID', { rate: 'quick' }, 400, 'request.invalid'],
    ['PATCH', 'timelines/ID', { rate: '24' }, 400, 'timeline.own-rate'],
    ['PATCH', 'timelines/ID', { cutsOffset: 1e9 }, 400, 'request.invalid'],
    ['PATCH', 'timelines/ID', { name: '   ' }, 400, 'request.invalid'],
    ['POST', 'timelines/ID/link', { files: {} }, 400, 'timeline.flattened'],
    [
      'POST',
      'deliverables',
      {
        action: 'waive',
        keys: [{ timelineId: 'ID', regionId: 'r', outletId: 'o' }],
        rule: 'x',
        reason: ' ',
        initials: 'QP',
      },
      400,
      'request.invalid',
    ],
    ['POST', 'deliverables', { action: 'sell', keys: [] }, 400, 'request.invalid'],
    ['POST', 'runs', { name: 'Night', workers: -1, keys: null }, 400, 'request.invalid'],
    ['POST', 'runs', { name: 'Night', workers: 0, keys: null }, 400, 'run.no-workers'],
    ['POST', 'runs', { name: 'Night', workers: 2, keys: [] }, 400, 'run.empty'],
    ['GET', 'runs/none', undefined, 404, 'run.unknown'],
    ['GET', 'files?root=storage&path=../..', undefined, 403, 'root.outside'],
    ['PUT', 'watch', { folder: { root: 'storage', path: '../..' } }, 403, 'root.outside'],
    ['PUT', 'outlets', { id: 'x' }, 400, 'request.invalid'],
    ['DELETE', 'outlets/none', undefined, 404, 'outlet.unknown'],
    ['DELETE', 'specs/none', undefined, 404, 'spec.unknown'],
    ['DELETE', 'specs/northmere', undefined, 400, 'spec.shipped'],
    ['DELETE', 'timelines/none', undefined, 404, 'timeline.unknown'],
    ['PATCH', 'timelines/none', { name: 'x' }, 404, 'timeline.unknown'],
    ['GET', 'deliverables/ID/r/none', undefined, 404, 'deliverable.unknown'],
    ['GET', 'handover/none', undefined, 404, 'deliverable.unknown'],
    ['POST', 'runs/none', { action: 'pause' }, 404, 'run.unknown'],
    ['POST', 'runs/deliverables/none', { action: 'skip' }, 404, 'deliverable.unknown'],
    ['GET', 'dreams', undefined, 404, 'request.unknown'],
    ['DELETE', 'runs', undefined, 405, 'request.method'],
    ['PUT', 'timelines/ID', {}, 405, 'request.method'],
  ])('%s %s %j', async (method, route, body, status, code) => {
    const text = body === undefined ? undefined : JSON.stringify(body).replaceAll('ID', id)
    const answer = await ask(method, route.replace('ID', id), text)
    expect({ status: answer.status, code: (answer.body as { error: { code: string } }).error?.code }).toEqual({
      status,
      code,
    })
    expect((answer.body as { error: { message: string } }).error.message).toMatch(/\w.*/)
  })
  it.each([
    '{',
    '[]',
    'null',
    '"x"',
    '{"media":{"root":"storage","path":"\\u0000"}}',
    `{"media":{"root":"storage","path":"${'a/'.repeat(3000)}"}}`,
  ])('a body of %s is no request', async (body) => {
    const answer = await ask('POST', 'timelines', body)
    expect(answer.status).toBeGreaterThanOrEqual(400)
    expect(answer.status).toBeLessThan(500)
  })
  it('are refused from other origins, whatever they ask', async () => {
    for (const headers of [{ origin: 'http://elsewhere.example' }, { 'sec-fetch-site': 'cross-site' }])
      expect(await ask('GET', 'timelines', undefined, headers as never)).toMatchObject({
        status: 403,
        body: { error: { code: 'request.foreign' } },
      })
  })
  it('leave the server as it was', async () => {
    expect(await ask('GET', 'timelines')).toMatchObject({ status: 200, body: [{ id, name: 'reel' }] })
    expect((await ask('GET', 'runs')).status).toBe(200)
  })
})

describe('pages', () => {
  it('may not be framed by others, and say what they are', async () => {
    for (const path of ['/', '/api/timelines']) {
      const { headers } = await fetch(`${served.url}${path}`)
      expect(headers.get('content-security-policy')).toContain("frame-ancestors 'none'")
      expect(headers.get('x-content-type-options')).toBe('nosniff')
    }
  })
})

describe('dropped files', () => {
  it('are taken under a safe and free name, inside the root', async () => {
    const bytes = readFileSync(path.join(storage, 'Ferry', 'reel.edl'), 'utf8')
    const names: string[] = []
    for (const name of ['tide table.edl', 'tide table.edl', '../../../etc/passwd.edl', 'a\\b:c.edl']) {
      const r = await fetch(`${served.url}/api/upload?name=${encodeURIComponent(name)}`, { method: 'PUT', body: bytes })
      expect(r.status).toBe(200)
      names.push(((await r.json()) as { path: string }).path)
    }
    expect(new Set(names).size).toBe(4)
    expect(names.every((n) => /^Incoming\/[^/\\]+\.edl$/.test(n))).toBe(true)
    for (const n of names) expect(readFileSync(path.join(storage, n), 'utf8')).toBe(bytes)
    expect(readdirSync(path.join(storage, 'Incoming')).filter((n) => n.endsWith('.part'))).toEqual([])
  })
})
