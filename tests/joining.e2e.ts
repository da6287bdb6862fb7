import { spawn, type ChildProcess } from 'node:child_process'
import { once } from 'node:events'
import { mkdirSync, renameSync, rmdirSync, symlinkSync } from 'node:fs'
import path from 'node:path'
import { afterAll, expect, it } from 'vitest'
import type { RunSummary, RunView } from '../contract/runs'
import type { Shelf } from '../contract/shelf'
import type { SplitTimeline } from '../core/split/timeline'
import { application, ask, endServer, page, pageOfApplication, served } from './browser'
import { outlet, recipe, smallReel } from './fixtures'

// Another machine takes part: a process of its own that knows the server by its address alone, and the storage under
// another path.

const { folder, storage, startAgain } = application(async () => {
  mkdirSync(storage, { recursive: true })
  symlinkSync(storage, path.join(folder, 'mounted'))
  await smallReel(path.join(storage, 'reel.mov'))
})
pageOfApplication()

let machine: ChildProcess
let said = ''
afterAll(() => void machine.kill('SIGKILL'))

function join(...more: string[]): void {
  const words = ['join', served.url, '--storage', path.join(folder, 'mounted'), '--name', 'Harbour', ...more]
  machine = spawn(process.execPath, [path.resolve('dist/cli.mjs'), ...words], {
    env: { ...process.env, VELVET_HOME: path.resolve('.'), XDG_STATE_HOME: path.join(folder, 'state') },
    stdio: ['ignore', 'ignore', 'pipe'],
  })
  said = ''
  machine.stderr!.on('data', (text: Buffer) => (said += text.toString()))
}
const joined = async () => (await ask<Shelf>('outlets')).machines
const runs = () => ask<RunSummary[]>('runs')

it('is seen on the Shelf, and does a night that leaves the machine that serves alone', async () => {
  await ask('timelines', 'POST', { media: { root: 'storage', path: 'reel.mov' } })
  const [t] = await ask<SplitTimeline[]>('timelines')
  const regions = ['Fog Bell', 'Low Water'].map((name, i) => ({
    ...{ id: `r${i}`, name, in: 40 * i, out: 40 * i + 30, metadata: {} },
  }))
  await ask(`timelines/${t!.id}/split`, 'PUT', { split: { regions, markers: [] }, version: 1 })
  await ask('outlets', 'PUT', outlet('Screening', 'storage', recipe('viewing', { width: 320, height: 180 })))
  const keys = regions.map((r) => ({ timelineId: t!.id, regionId: r.id, outletId: 'Screening' }))
  await ask('deliverables', 'POST', { action: 'choose', keys, chosen: true })
  await page.goto(`${served.url}/shelf`)
  await page.getByText('Other machines can take part').waitFor()
  join('--workers', '2')
  await page.getByText('Harbour').waitFor()
  await page.getByText('Sees storage.').waitFor()
  await page.getByRole('link', { name: /^Night run/ }).click()
  await page.getByText('2 workers of Harbour help').waitFor()
  await page.getByText(/^[\d.]+ [MG]B of [\d.]+ GB$/).waitFor()
  await page.getByLabel('Workers').fill('0')
  await page.getByText('2 workers of Harbour do it all; this machine is left alone.').waitFor()
  await page.getByRole('button', { name: 'Start the night: 2 files' }).click()
  await page.getByText('2 files done and proven').waitFor()
  const [{ id }] = (await runs()) as [RunSummary]
  const { items, workers } = await ask<RunView>(`runs/${id}`)
  expect([workers, ...items.map((i) => [i.state, i.verdict])]).toEqual([0, ['done', 'pass'], ['done', 'pass']])
  expect((await joined())[0]!.done).toBeGreaterThan(3)
  await page.goto(`${served.url}/handover`)
  const packages = page.getByRole('navigation', { name: 'Packages' })
  await packages.getByText('01_Fog_Bell.mp4').click()
  await page
    .getByRole('img', { name: /^First/ })
    .first()
    .waitFor()
})

it('joins again when the server was started again, and says so', async () => {
  await endServer(served)
  await startAgain()
  await expect.poll(async () => (await joined()).map((m) => m.name)).toEqual(['Harbour'])
  expect(said).toContain('does not know this machine any more; joining again')
})

it('waits for storage that is away as it joins again, and does not go', async () => {
  await endServer(served)
  renameSync(path.join(folder, 'mounted'), path.join(folder, 'away'))
  mkdirSync(path.join(folder, 'mounted'))
  await startAgain()
  await expect.poll(() => said).toContain('not taking part just now: This folder is none of the storage roots there.')
  rmdirSync(path.join(folder, 'mounted'))
  renameSync(path.join(folder, 'away'), path.join(folder, 'mounted'))
  await expect.poll(async () => (await joined()).map((m) => m.writes)).toEqual([['storage']])
})

it('leaves when it is ended, and what it would have done waits for workers, which is said', async () => {
  const ended = once(machine, 'exit')
  machine.kill('SIGINT')
  expect(await ended).toEqual([0, null])
  expect(said).toContain('what was in hand goes to others')
  await expect.poll(joined).toEqual([])
  const [{ id }] = (await runs()) as [RunSummary]
  await ask(`runs/${id}/again`, 'POST')
  await page.goto(`${served.url}/run`)
  await page.getByText('Nothing goes on: no machine takes part any more').waitFor()
  await page.getByLabel('Workers').fill('1')
  await page.getByText('2 files done and proven').waitFor()
  expect((await runs()).map((r) => [r.state, r.done])).toEqual([
    ['done', 2],
    ['done', 2],
  ])
})

it('is told what is wrong before it takes part', async () => {
  mkdirSync(path.join(folder, 'another'))
  join('--storage', path.join(folder, 'another'))
  expect((await once(machine, 'exit'))[0]).toBe(2)
  expect(said).toContain('This folder is none of the storage roots there.')
  expect(said).toContain('Give the folders where these are mounted here: storage.')
})
