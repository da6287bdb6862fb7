import { mkdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { endServer, serve } from './browser'
import { scratchFolder } from './fixtures'

const { folder, remove } = scratchFolder()
const data = path.join(folder, 'data')
let served: Awaited<ReturnType<typeof serve>>
beforeAll(async () => {
  mkdirSync(path.join(folder, 'storage'))
  // as a power cut may leave it: it must let nobody in
  mkdirSync(data)
  writeFileSync(path.join(data, 'access-key'), '\n', { mode: 0o644 })
  served = await serve(data, path.join(folder, 'storage'), undefined, '0.0.0.0')
})
afterAll(async () => {
  await endServer(served)
  remove()
})

const ask = (route: string, headers: Record<string, string> = {}) =>
  fetch(`${served.url}${route}`, { headers, redirect: 'manual' })

describe('a server for others than this machine', () => {
  it('lets nobody in without its key', async () => {
    for (const headers of [{}, { cookie: 'velvet-key=wrong' }])
      for (const route of ['/', '/api/timelines', '/?key=wrong']) {
        const r = await ask(route, headers as Record<string, string>)
        expect([route, r.status, ((await r.json()) as { error: { code: string } }).error.code]).toEqual([
          route,
          401,
          'request.no-key',
        ])
      }
  })
  it('takes the key once, and a cookie from then on', async () => {
    const file = path.join(data, 'access-key')
    expect(statSync(file).mode & 0o077).toBe(0)
    const key = readFileSync(file, 'utf8').trim()
    const first = await ask(`/?key=${key}`)
    expect([first.status, first.headers.get('location')]).toEqual([302, '/'])
    expect((await ask(`//elsewhere.example/desk?key=${key}`)).headers.get('location')).toBe('/elsewhere.example/desk')
    const cookie = first.headers.get('set-cookie')!
    expect(cookie).toMatch(/HttpOnly.*SameSite=Strict/i)
    expect((await ask('/api/timelines', { cookie: cookie.split(';')[0]! })).status).toBe(200)
  })
  it('takes the key of a machine that has no cookies with every request', async () => {
    const key = readFileSync(path.join(data, 'access-key'), 'utf8').trim()
    expect((await ask('/api/timelines', { authorization: `Bearer ${key}` })).status).toBe(200)
    for (const shown of ['Bearer wrong', 'Bearer ', `Basic ${key}`])
      expect((await ask('/api/timelines', { authorization: shown })).status).toBe(401)
  })
})
