import { appendFileSync, copyFileSync, mkdirSync, readFileSync, truncateSync, utimesSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { drain, scratchFolder, smallReel, testEngine } from '../../tests/fixtures'
import type { Session } from '../session'
import { sumsOfFile } from '../storage/hashing'

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
const there = (name: string) => path.join(storage, 'in', name)
let engine: Session
const place = { root: 'storage', path: 'in' }
const list = async (spec = 'lantern') => (await engine.received.list(place, spec)).map((f) => [f.path, f.state])

beforeAll(async () => {
  mkdirSync(path.join(storage, 'in', 'more', '.hidden'), { recursive: true })
  await smallReel(there('reel.mov'))
  copyFileSync(there('reel.mov'), there('more/copy of it.mov'))
  for (const name of ['reel.mov', 'more/copy of it.mov']) utimesSync(there(name), 1_000_000, 1_000_000)
  copyFileSync(there('reel.mov'), there('more/.hidden/reel.mov'))
  copyFileSync(there('reel.mov'), there('short.mov'))
  truncateSync(there('short.mov'), 90_000)
  writeFileSync(there('none.mp4'), 'not a film at all, though it is called one')
  writeFileSync(there('notes.txt'), 'no media')
  engine = await testEngine(folder)
})
afterAll(async () => {
  await engine.close()
  remove()
})

it('finds media files at any depth, hidden ones left out, and measures nothing by itself', async () => {
  expect(await list()).toEqual([
    ['in/more/copy of it.mov', 'unmeasured'],
    ['in/none.mp4', 'unmeasured'],
    ['in/reel.mov', 'unmeasured'],
    ['in/short.mov', 'unmeasured'],
  ])
})

it('measures each content once, where its times were copied as well, and says what cannot be read', async () => {
  await engine.received.measure(place)
  const steps = await engine.db.selectFrom('step').select('key').where('kind', '=', 'measure-file').execute()
  expect(steps).toHaveLength(3)
  expect((await list()).map(([, state]) => state)).toEqual(['waiting', 'waiting', 'waiting', 'waiting'])
  await drain(engine)
  const files = await engine.received.list(place, 'lantern')
  expect(files.map((f) => [f.path, f.state, f.problem?.code ?? null])).toEqual([
    ['in/more/copy of it.mov', 'judged', null],
    ['in/none.mp4', 'unreadable', expect.any(String)],
    ['in/reel.mov', 'judged', null],
    ['in/short.mov', 'judged', null],
  ])
  expect(files[1]!.problem!.message.length).toBeGreaterThan(10)
  // what is not whole fails, whatever else of it is as required
  expect(files[3]).toMatchObject({ verdict: 'fail' })
  expect(files[3]!.misses.join(' ')).toMatch(/File itself/)
})

it('holds what was measured against any specification, without measuring it again', async () => {
  const verdicts = async (spec: string) => (await engine.received.list(place, spec)).map((f) => f.verdict)
  const northmere = await verdicts('northmere')
  expect(northmere[2]).toBe('fail')
  const left = await engine.db.selectFrom('step').select('id').where('state', 'in', ['ready', 'waiting']).execute()
  expect(left).toEqual([])
  const results = await engine.received.results({ root: 'storage', path: 'in/reel.mov' }, 'northmere')
  const by = (m: string) => results.find((r) => r.rule.measure === m)!
  expect(by('container')).toMatchObject({ verdict: 'fail', written: { value: 'mov' } })
  expect(by('frame-rate')).toMatchObject({ verdict: 'pass' })
  expect(by('metadata')).toMatchObject({ verdict: 'unmeasured' })
})

it('judges each file by its own name', async () => {
  const name = async (file: string) => {
    const results = await engine.received.results({ root: 'storage', path: file }, 'northmere')
    return results.find((r) => r.rule.measure === 'file-name')!
  }
  expect(await name('in/reel.mov')).toMatchObject({ verdict: 'pass', written: { value: 'reel.mov' } })
  expect(await name('in/more/copy of it.mov')).toMatchObject({ verdict: 'caution' })
})

it('takes a file that was written to for another one', async () => {
  appendFileSync(there('reel.mov'), Buffer.alloc(100))
  expect((await list()).find(([file]) => file === 'in/reel.mov')).toEqual(['in/reel.mov', 'unmeasured'])
})

it('refuses what lies outside, and a specification that is not there', async () => {
  await expect(engine.received.list({ root: 'storage', path: '../..' }, 'lantern')).rejects.toThrow('lies outside')
  await expect(engine.received.list(place, 'nobody')).rejects.toThrow('no specification “nobody”')
  await expect(engine.received.list({ root: 'storage', path: 'gone' }, 'lantern')).rejects.toMatchObject({
    code: 'ENOENT',
  })
})

it('holds files against the lists of checksums that came with them, each by its own bytes', async () => {
  const sent = { root: 'storage', path: 'sent' }
  const at = (name: string) => path.join(storage, 'sent', name)
  mkdirSync(path.join(storage, 'sent', 'copies'), { recursive: true })
  await smallReel(at('reel.mov'), { start: 200 })
  copyFileSync(at('reel.mov'), at('copies/reel.mov'))
  // damaged between all that a fingerprint looks at
  const bytes = readFileSync(at('copies/reel.mov'))
  bytes[Math.floor((65_536 + (bytes.length - 65_536) / 16) / 2)]! ^= 1
  writeFileSync(at('copies/reel.mov'), bytes)
  for (const name of ['reel.mov', 'copies/reel.mov']) utimesSync(at(name), 2_000_000, 2_000_000)
  const { md5 } = await sumsOfFile(at('reel.mov'), ['md5'])
  await engine.received.measure(sent)
  await drain(engine)
  const intact = async (name: string) => {
    const results = await engine.received.results({ root: 'storage', path: `sent/${name}` }, 'lantern')
    return results.find((r) => r.rule.measure === 'intact')!
  }
  expect([(await intact('reel.mov')).verdict, (await intact('copies/reel.mov')).verdict]).toEqual(['pass', 'pass'])
  // a list that comes later is held against what was measured
  writeFileSync(at('list.md5'), `${md5}  reel.mov\n${md5}  copies/reel.mov\n${md5}  gone.mov\n`)
  const states = async () => (await engine.received.list(sent, 'lantern')).map((f) => [f.path, f.state])
  const gone = ['sent/gone.mov', 'absent']
  expect(await states()).toEqual([['sent/copies/reel.mov', 'unmeasured'], gone, ['sent/reel.mov', 'unmeasured']])
  expect(await intact('reel.mov')).toMatchObject({ verdict: 'unmeasured' })
  await engine.received.measure(sent)
  await drain(engine)
  expect(await states()).toEqual([['sent/copies/reel.mov', 'judged'], gone, ['sent/reel.mov', 'judged']])
  expect(await intact('reel.mov')).toMatchObject({
    ...{ verdict: 'pass', written: { text: 'whole, with the MD5 in list.md5' } },
  })
  expect(await intact('copies/reel.mov')).toMatchObject({
    ...{ verdict: 'fail', written: { text: 'not what was sent (it has not the MD5 in list.md5)' } },
  })
})

it('measures what comes into a watched folder once it has stopped growing, and what is no film once', async () => {
  const inbox = { root: 'storage', path: 'inbox' }
  mkdirSync(path.join(storage, 'inbox'))
  const states = async () => (await engine.received.list(inbox, 'lantern')).map((f) => [f.path, f.state])
  const { received } = engine
  await received.watch(inbox)
  expect(await received.watched()).toEqual(inbox)
  await smallReel(path.join(storage, 'inbox', 'first.mov'), { start: 25 })
  writeFileSync(path.join(storage, 'inbox', 'growing.mp4'), 'no film')
  await received.look()
  appendFileSync(path.join(storage, 'inbox', 'growing.mp4'), ', and never one')
  await received.look()
  expect(await states()).toEqual([
    ['inbox/first.mov', 'waiting'],
    ['inbox/growing.mp4', 'unmeasured'],
  ])
  await received.look()
  await drain(engine)
  const measured = [
    ['inbox/first.mov', 'judged'],
    ['inbox/growing.mp4', 'unreadable'],
  ]
  expect(await states()).toEqual(measured)
  await received.look()
  expect(await states()).toEqual(measured)
  await received.watch(null)
  await smallReel(path.join(storage, 'inbox', 'late.mov'), { start: 50 })
  await received.look()
  await received.look()
  expect(await states()).toEqual([...measured, ['inbox/late.mov', 'unmeasured']])
  await expect(received.watch({ root: 'storage', path: '../elsewhere' })).rejects.toThrow(/outside the storage root/)
})

it('judges the pictures of a file whose sound is of no kind that is known here, which is not measured', async () => {
  const bytes = readFileSync(there('reel.mov'))
  bytes.write('abcd', bytes.indexOf('in24'), 'latin1')
  writeFileSync(there('other.mov'), bytes)
  await engine.received.measure(place)
  await drain(engine)
  const results = await engine.received.results({ root: 'storage', path: 'in/other.mov' }, 'northmere')
  const of = (measure: string) => results.find((r) => r.rule.measure === measure)!.verdict
  expect(['intact', 'frame-rate', 'loudness', 'sound-codec'].map(of)).toEqual(['pass', 'pass', 'unmeasured', 'fail'])
})
