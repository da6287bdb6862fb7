import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { api, upload } from './api'
import { frameUrl, still } from './stills'

afterEach(() => vi.unstubAllGlobals())
const answering = (status: number, text: string) => vi.stubGlobal('fetch', async () => new Response(text, { status }))

describe('asking the server', () => {
  it('gives the answer, and sends bodies as JSON', async () => {
    const sent: unknown[] = []
    vi.stubGlobal('fetch', async (url: string, o: RequestInit) => {
      sent.push([url, o.method, o.body, o.headers])
      return new Response('{"n":1}')
    })
    expect(await api('GET runs')).toEqual({ n: 1 })
    await api('PUT watch', { body: { folder: null } })
    await api('GET timelines/:id', { params: { id: 'a/b c' } })
    await api('GET files', { query: { root: 'tide & table' } })
    expect(sent).toEqual([
      ['/api/runs', 'GET', undefined, undefined],
      ['/api/watch', 'PUT', '{"folder":null}', { 'content-type': 'application/json' }],
      ['/api/timelines/a%2Fb%20c', 'GET', undefined, undefined],
      ['/api/files?root=tide+%26+table', 'GET', undefined, undefined],
    ])
  })
  it.each([
    [400, '{"error":{"code":"a.b","message":"no","fix":"yes"}}', { code: 'a.b', message: 'no', fix: 'yes' }],
    [502, '<html>', { code: 'server.error', message: 'The server answered 502.' }],
    [500, '{}', { code: 'server.error', message: 'The server answered 500.' }],
  ])('throws what went wrong as a problem: %d', async (status, text, problem) => {
    answering(status, text)
    await expect(api('GET runs')).rejects.toMatchObject({ problem })
  })
  it('throws a problem when nobody answers', async () => {
    vi.stubGlobal('fetch', async () => Promise.reject(new TypeError('refused')))
    await expect(api('GET runs')).rejects.toMatchObject({ problem: { code: 'server.silent' } })
  })
})

describe('uploading', () => {
  class Request {
    static last: Request
    upload: { onprogress?: (e: { loaded: number; total: number }) => void } = {}
    status = 200
    responseText = ''
    opened = ''
    onload: () => void = () => undefined
    onerror: () => void = () => undefined
    onabort: () => void = () => undefined
    constructor() {
      Request.last = this
    }

    open(method: string, url: string) {
      this.opened = `${method} ${url}`
    }

    send() {
      /* answered by the test */
    }
    abort() {
      this.onabort()
    }
  }
  beforeEach(() => vi.stubGlobal('XMLHttpRequest', Request))
  const file = { name: 'tide & table.edl' } as File

  it('names the file, tells how far it is, and gives its place', async () => {
    const shares: number[] = []
    const { done } = upload(file, (s) => shares.push(s))
    const r = Request.last
    expect(r.opened).toBe('PUT /api/upload?name=tide+%26+table.edl')
    for (const [loaded, total] of [
      [0, 10],
      [5, 10],
      [0, 0],
    ] as const)
      r.upload.onprogress!({ loaded, total })
    r.responseText = '{"root":"storage","path":"Incoming/tide.edl"}'
    r.onload()
    expect(await done).toEqual({ root: 'storage', path: 'Incoming/tide.edl' })
    expect(shares).toEqual([0, 0.5, 0])
  })
  it.each([
    ['{"error":{"code":"disk.full","message":"full"}}', 'disk.full'],
    ['', 'upload.failed'],
  ])('throws what the server refuses: %s', async (text, code) => {
    const { done } = upload(file, () => undefined)
    Object.assign(Request.last, { status: 507, responseText: text })
    Request.last.onload()
    await expect(done).rejects.toMatchObject({ problem: { code } })
  })
  it('says that it was interrupted, or stopped', async () => {
    const first = upload(file, () => undefined)
    Request.last.onerror()
    await expect(first.done).rejects.toMatchObject({ problem: { code: 'upload.failed', where: file.name } })
    const second = upload(file, () => undefined)
    second.abort()
    await expect(second.done).rejects.toMatchObject({ problem: { code: 'upload.stopped' } })
  })
})

describe('small pictures', () => {
  class Picture {
    static made: Picture[] = []
    decoding = ''
    src = ''
    complete = false
    naturalWidth = 0
    onload: () => void = () => undefined
    onerror: () => void = () => undefined
    constructor() {
      Picture.made.push(this)
    }
  }
  beforeEach(() => {
    Picture.made = []
    vi.stubGlobal('Image', Picture)
  })
  it('are fetched once, and are there when they are loaded', () => {
    let ready = 0
    const ask = () => still('/one.jpg', () => ready++)
    expect([ask(), ask()]).toEqual([null, null])
    expect(Picture.made).toHaveLength(1)
    Object.assign(Picture.made[0]!, { complete: true, naturalWidth: 480 })
    Picture.made[0]!.onload()
    expect([ready, ask() === (Picture.made[0] as unknown)]).toEqual([1, true])
  })
  it('that failed are asked for again after a while', () => {
    vi.useFakeTimers()
    still('/two.jpg', () => undefined)
    Picture.made[0]!.onerror()
    still('/two.jpg', () => undefined)
    expect(Picture.made).toHaveLength(1)
    vi.advanceTimersByTime(2100)
    still('/two.jpg', () => undefined)
    expect(Picture.made).toHaveLength(2)
    vi.useRealTimers()
  })
  it('are let go, the oldest first', () => {
    for (let n = 0; n < 520; n++) still(`/many/${n}.jpg`, () => undefined)
    const before = Picture.made.length
    still('/many/519.jpg', () => undefined)
    expect(Picture.made.length).toBe(before)
    still('/many/0.jpg', () => undefined)
    expect(Picture.made.length).toBe(before + 1)
  })
  it('have another address when the media is another', () => {
    expect(frameUrl({ id: 't', fingerprint: { content: 'aa' } }, 7, 160)).toBe(
      '/api/timelines/t/frames/7.jpg?w=160&of=aa',
    )
  })
})
