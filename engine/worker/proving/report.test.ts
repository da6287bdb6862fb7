import { execFileSync } from 'node:child_process'
import { linkSync, mkdirSync, readFileSync, readdirSync, rmSync, statSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { drain, outlet, recipe, scratchFolder, smallReel, testEngine, workHere } from '../../../tests/fixtures'
import type { Session } from '../../session'
import { scratchFolder as scratchFolderOf } from '../../storage/scratch'
import { installationOf } from '../../store/settings'
import { folderOf } from './report'

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
const names = Array.from({ length: 12 }, (_, i) => `Part ${i + 1}`)
let engine: Session
let run: string

/** The report of the run: paths of its files, and what sha256sum says of its list. */
function report(): { files: string[]; sums: string } {
  const at = path.join(storage, 'out', 'sound')
  const found = readdirSync(at).filter((f) => f.startsWith('handover-'))
  expect(found.sort()).toEqual([`handover-${run}-sound.json`, `handover-${run}-sound.sha256`])
  return {
    files: (JSON.parse(readFileSync(path.join(at, found[0]!), 'utf8')) as { files: { path: string }[] }).files.map(
      (f) => f.path,
    ),
    sums: execFileSync('sha256sum', ['-c', '--quiet', found[1]!], { cwd: at }).toString(),
  }
}

/** Lets the last step of a deliverable be done once more, as after a crash in it. */
async function proveAgain(id: string): Promise<void> {
  await engine.db.updateTable('run').set({ state: 'running' }).where('id', '=', run).execute()
  await engine.db.updateTable('deliverable').set({ state: 'running' }).where('id', '=', id).execute()
  await engine.db
    .updateTable('step')
    .set({ state: 'ready', worker: null })
    .where('deliverable_id', '=', id)
    .where('kind', '=', 'prove')
    .execute()
  await drain(engine)
}

beforeAll(async () => {
  mkdirSync(storage, { recursive: true })
  await smallReel(path.join(storage, 'reel.mov'))
  engine = await testEngine(folder)
  // each part in a folder of its own: the report stands above them all from the first file on
  await engine.outlets.save(outlet('sound', 'storage', recipe('sound'), { pattern: '{region}/{number}' }))
  const t = await engine.timelines.bringIn({ root: 'storage', path: 'reel.mov' })
  const regions = names.map((name, i) => ({ id: `r${i}`, name, in: i * 10, out: i * 10 + 10, metadata: {} }))
  await engine.timelines.saveSplit(t.id, { regions, markers: [] }, 1)
  await engine.outlets.choose(
    regions.map((r) => ({ timelineId: t.id, regionId: r.id, outletId: 'sound' })),
    true,
  )
  await drain(engine)
})
afterAll(async () => {
  await engine.close()
  remove()
})

it('names every file, though several workers finish at once', async () => {
  run = await engine.nights.start('night', 3)
  const done = async () => (await engine.progress.view(run)).state !== 'running'
  let stop = false
  const workers = [0, 1, 2].map((i) => workHere(engine, i, () => stop))
  await expect.poll(done).toBe(true)
  stop = true
  await Promise.all(workers)
  const { files, sums } = report()
  expect(files).toEqual(
    names.map((name, i) => `out/sound/${name.replace(' ', '_')}/${String(i + 1).padStart(2, '0')}.wav`),
  )
  expect(sums).toBe('')
})

it('is written when a crash fell between the naming of the last file and the report', async () => {
  const last = (await engine.progress.view(run)).items.at(-1)!
  const stale = readdirSync(path.join(storage, 'out', 'sound')).filter((f) => f.startsWith('handover-'))
  for (const f of stale) rmSync(path.join(storage, 'out', 'sound', f))
  await proveAgain(last.id)
  expect((await engine.progress.view(run)).state).toBe('done')
  expect(report().files).toHaveLength(12)
})

it('a file is named once, also when a crash fell between the two halves of its move', async () => {
  const last = (await engine.progress.view(run)).items.at(-1)!
  const wav = path.join(storage, last.path)
  const { result } = await engine.db
    .selectFrom('step')
    .select('result')
    .where('deliverable_id', '=', last.id)
    .where('kind', '!=', 'prove')
    .orderBy('id', 'desc')
    .executeTakeFirstOrThrow()
  const made = JSON.parse(result!) as { file: string }
  const installation = await installationOf(engine.db)
  const scratch = await scratchFolderOf(engine.roots, 'storage', installation, run, last.id)
  linkSync(wav, path.join(scratch, made.file))
  await proveAgain(last.id)
  expect((await engine.progress.view(run)).items.at(-1)).toMatchObject({ state: 'done', path: last.path })
  expect(readdirSync(path.dirname(wav))).toEqual([path.basename(wav)])
  expect([statSync(wav).nlink, readdirSync(storage).filter((f) => f.startsWith('.'))]).toEqual([1, []])
})

it('stands in the deepest folder that holds all files', () => {
  expect(folderOf(['a/b/c.wav', 'a/b/d/e.wav'])).toBe('a/b')
  expect(folderOf(['a/b/c.wav', 'x/d.wav'])).toBe('')
  expect(folderOf([])).toBe('')
})
