import path from 'node:path'
import { afterAll, beforeEach, describe, expect, it } from 'vitest'
import { scratchFolder } from '../../tests/fixtures'
import { openDatabase, type Db } from '../store/database'
import { Runs } from '../runs/runs'
import { endDeliverable, problemOf } from '../store/deliverables'
import { backgroundOffer } from '../worker/background'
import { believedFor, ClaimLost, mostLost, reads, writes, type Claim, type OfferedStep } from './port'
import { inTransaction, SqliteQueue } from './sqlite'

const { folder, remove } = scratchFolder()
let db: Db
let queue: SqliteQueue
/** The clock of whoever looks, ms. */
let now = 0
let n = 0

const step = (deliverable: string, key: string, needs: string[] = [], abilities: string[] = []): OfferedStep => ({
  run: 'r',
  deliverable,
  key,
  kind: 'encode-segment',
  payload: {},
  needs,
  abilities,
  places: [reads('archive'), writes('disk')],
  frames: 10,
  position: deliverable === 'a' ? 0 : 1,
})
const worker = (id: string, index = 0, abilities: string[] = [], places: string[] | null = null) => ({
  ...{ id, index, abilities, places },
})
const claim = async (id: string, index = 0): Promise<Claim> => (await queue.claim(worker(id, index)))!

beforeEach(async () => {
  now = 0
  db = await openDatabase(path.join(folder, `${n++}.sqlite`))
  queue = new SqliteQueue(db, () => now)
  await db
    .insertInto('run')
    .values({ id: 'r', name: 'r', state: 'running', workers: 2, created: '', finished: null, sheet: '' })
    .execute()
  for (const [position, id] of ['a', 'b'].entries()) {
    const columns = { title: id, region: '', outlet: '', outlet_id: '', timeline: '', root: '', target: '' }
    const empty = { final_path: null, result: null, problem: null, started: null, finished: null, verdict: null }
    await db
      .insertInto('deliverable')
      .values({
        id,
        run_id: 'r',
        position,
        state: 'waiting',
        sheet: '{}',
        frames: 10,
        seconds: 1,
        ...columns,
        ...empty,
      })
      .execute()
    await queue.offer([step(id, 's0'), step(id, 's1'), step(id, 'join', ['s0', 's1'])])
  }
})
afterAll(remove)
const stateOf = async (id: string) =>
  (await db.selectFrom('deliverable').select('state').where('id', '=', id).executeTakeFirstOrThrow()).state

describe('the queue', () => {
  it('hands each step to one worker only, in the order of the list', async () => {
    const claimed = await Promise.all(Array.from({ length: 8 }, (_, i) => queue.claim(worker(`w${i}`))))
    const names = claimed.filter((c) => c !== null).map((c) => `${c.deliverable}${c.key}`)
    expect(names.sort()).toEqual(['as0', 'as1', 'bs0', 'bs1'])
  })
  it('gives a worker of another machine what it sees and can do, and nothing of what is kept here', async () => {
    const source = { root: 's', path: 'p', fingerprint: { size: 1, modified: 1, content: 'c' } }
    await queue.offer([backgroundOffer('sum-media', { fact: 'sum', source }, 1)])
    const joined = (...places: string[]) => queue.claim(worker('m/w', -1, [], places))
    expect(await joined()).toBeNull()
    expect(await joined(reads('archive'), reads('disk'))).toBeNull()
    expect(await joined(reads('archive'), writes('disk'))).toMatchObject({ key: 's0', deliverable: 'a' })
    // a night that leaves this machine alone is for the others
    await db.updateTable('run').set({ workers: 0 }).execute()
    expect(await claim('here', 0)).toMatchObject({ key: 'sum' })
    expect(await queue.claim(worker('here', 0))).toBeNull()
    expect(await joined(reads('archive'), writes('disk'))).toMatchObject({ key: 's1', deliverable: 'a' })
  })
  it('takes back what workers of one machine hold, and tells what a claim is', async () => {
    const places = [reads('archive'), writes('disk')]
    const one = (await queue.claim(worker('m1/w', -1, [], places)))!
    const other = (await queue.claim(worker('m2/w', -1, [], places)))!
    expect(await queue.held({ step: one.step, fence: one.fence, worker: one.worker })).toEqual(one)
    await queue.reclaim('m1/')
    await expect(queue.held(one)).rejects.toThrow(ClaimLost)
    expect(await queue.held(other)).toEqual(other)
    expect(await claim('w')).toMatchObject({ step: one.step, takenOver: true })
  })
  it('has long passes before the night, files from elsewhere behind it, and a worker free of both', async () => {
    const source = { root: 's', path: 'p', fingerprint: { size: 1, modified: 1, content: 'c' } }
    const offer = (fact: string, long?: 'before' | 'after') => backgroundOffer('sum-media', { fact, source }, 1, long)
    await queue.offer([offer('received', 'after'), offer('pass', 'before'), offer('short')])
    const keys = []
    for (let i = 0; i < 7; i++) keys.push((await claim('w', 1)).key)
    expect(keys.slice(0, 2)).toEqual(['short', 'pass'])
    expect(keys.slice(2, 6).sort()).toEqual(['s0', 's0', 's1', 's1'])
    expect(keys[6]).toBe('received')
    await queue.offer([offer('another', 'after')])
    expect(await queue.claim(worker('first', 0))).toBeNull()
  })

  it('makes a step ready when what it needs is done, and hands on what that gave', async () => {
    for (const w of ['x', 'y']) await queue.finish(await claim(w), { by: w })
    const join = await claim('z')
    expect(join.key).toBe('join')
    expect([...(await queue.results(join))]).toEqual([
      ['s0', { by: 'x' }],
      ['s1', { by: 'y' }],
    ])
  })
  it('gives steps that share what a claimed one reads with it, as many as go together, and no others', async () => {
    const alike = ['c', 'd', 'e', 'f', 'g'].map((key): OfferedStep => ({ ...step('a', key), shares: 'x' }))
    await queue.offer([...alike, { ...step('b', 'h', [], ['decode:dv']), shares: 'x' }])
    await queue.offer([{ ...step('b', 'i'), shares: 'y' }])
    const w = worker('w')
    const plain = await claim('w')
    expect([plain.shares, await queue.companions(plain, w)]).toEqual([null, []])
    await claim('v')
    const first = (await queue.claim(w))!
    const others = await queue.companions(first, w)
    expect([first, ...others].map((c) => [c.key, c.worker])).toEqual(['c', 'd', 'e', 'f'].map((k) => [k, 'w']))
    for (const c of others) await queue.renew(c, 1)
    await queue.fail(others[0]!, { code: 'x', message: 'x' })
    await expect(queue.renew(first, 1)).rejects.toThrow(ClaimLost)
  })
  it('takes what was lost with a worker alone from then on', async () => {
    await queue.offer(['c', 'd', 'e'].map((key): OfferedStep => ({ ...step('a', key), shares: 'x', position: -1 })))
    const first = await claim('w')
    expect((await queue.companions(first, worker('w'))).map((c) => c.key)).toEqual(['d', 'e'])
    await queue.abandon('w')
    const again = await claim('v')
    expect([again.key, again.shares, await queue.companions(again, worker('v'))]).toEqual(['c', null, []])
  })
  it('gives no companions of a run that is paused', async () => {
    await queue.offer(['c', 'd'].map((key): OfferedStep => ({ ...step('a', key), shares: 'x', position: -1 })))
    const first = await claim('w')
    await db.updateTable('run').set({ state: 'paused' }).execute()
    expect(await queue.companions(first, worker('w'))).toEqual([])
  })
  it('respects the number of workers and pauses', async () => {
    expect(await queue.claim(worker('w', 2))).toBeNull()
    await db.updateTable('run').set({ state: 'paused' }).execute()
    expect(await queue.claim(worker('w'))).toBeNull()
  })
  it('gives a step only to a worker that can do it', async () => {
    await db.deleteFrom('step').execute()
    await queue.offer([step('a', 'hard', [], ['decode:h264', 'encode:h264'])])
    expect(await queue.claim(worker('plain', 0, ['decode:h264']))).toBeNull()
    expect((await queue.claim(worker('able', 0, ['encode:h264', 'decode:h264', 'decode:pcm'])))!.key).toBe('hard')
  })
  it('believes in a claim as long as it is renewed, and not for ever when it is not', async () => {
    const slow = await claim('slow')
    const look = async () => {
      now += believedFor / 2
      return (await queue.claim(worker('quick', 5))) === null
    }
    for (let i = 0; i < 8; i++) {
      await queue.renew(slow, i)
      await look()
    }
    await queue.renew(slow, 8)
    for (let i = 0; i < 4; i++) await look()
    const again = await claim('quick')
    expect([again.step, again.fence, again.takenOver]).toEqual([slow.step, slow.fence + 1, true])
    await expect(queue.renew(slow, 9)).rejects.toBeInstanceOf(ClaimLost)
    await expect(queue.finish(slow, null)).rejects.toBeInstanceOf(ClaimLost)
    await expect(queue.fail(slow, { code: 'x', message: 'x' })).rejects.toBeInstanceOf(ClaimLost)
    await queue.renew(again, 5)
  })
  it('compares no clocks: a worker whose clock is hours off is believed like any other', async () => {
    const here = await claim('here')
    const elsewhere = new SqliteQueue(db, () => now + 3_600_000)
    for (let i = 0; i < 6; i++) {
      now += believedFor / 4
      await queue.renew(here, i)
      await elsewhere.claim(worker('there', 5))
    }
    await queue.finish(here, null)
  })
  it('gives up on a step that takes its workers down again and again', async () => {
    for (let i = 0; i < mostLost; i++) {
      await claim(`w${i}`)
      await queue.abandon(`w${i}`)
    }
    const row = await db.selectFrom('deliverable').selectAll().where('id', '=', 'a').executeTakeFirstOrThrow()
    expect(row.state).toBe('failed')
    expect(problemOf(row)).toMatchObject({ code: 'worker.lost' })
  })
  it('says of a step that it was taken out of a hand, by loss or by a stop, until one gives it back', async () => {
    const first = await claim('w')
    await new Runs(db, null as never, null as never, null as never).setState('r', 'stopped')
    await db.updateTable('run').set({ state: 'running' }).execute()
    const after = await claim('w')
    expect([after.step, after.takenOver]).toEqual([first.step, true])
    await queue.release(after)
    expect((await claim('w')).takenOver).toBe(false)
    await queue.abandon('w')
    expect((await claim('w')).takenOver).toBe(true)
  })
  it('counts no stop and no step given back against a step, however many there are', async () => {
    for (let i = 0; i < 3 * mostLost; i++) {
      const c = await claim('w')
      if (i % 2) await queue.release(c)
      else await db.updateTable('step').set({ state: 'ready', worker: null }).where('id', '=', c.step).execute()
    }
    expect(await stateOf('a')).toBe('running')
    expect((await claim('w')).takenOver).toBe(false)
  })
  it('one failure does not stop the rest, and the run ends when all have', async () => {
    await queue.fail(await claim('w'), { code: 'x', message: 'x' })
    for (let c = await queue.claim(worker('w')); c; c = await queue.claim(worker('w'))) {
      expect(c.deliverable).toBe('b')
      await queue.finish(c, null)
    }
    expect([await stateOf('a'), await stateOf('b')]).toEqual(['failed', 'done'])
    expect((await db.selectFrom('run').select('state').executeTakeFirstOrThrow()).state).toBe('done')
  })
  it('lets steps need those of other deliverables, and fails them with what they needed', async () => {
    await queue.offer([step('b', 'copy', ['a/s0'])])
    const first = await claim('w')
    expect([first.deliverable, first.key]).toEqual(['a', 's0'])
    await queue.finish(first, 'pictures')
    const ready = await db.selectFrom('step').select('key').where('state', '=', 'ready').execute()
    expect(ready.map((r) => r.key)).toContain('copy')
    await db.deleteFrom('step').where('key', '=', 'copy').execute()
    await queue.offer([step('b', 'copy', ['a/join'])])
    await inTransaction(db, (tx) => endDeliverable(tx, 'a', 'failed', { code: 'x', message: 'x' }))
    const b = await db.selectFrom('deliverable').selectAll().where('id', '=', 'b').executeTakeFirstOrThrow()
    expect([b.state, problemOf(b)?.code]).toEqual(['failed', 'step.needed'])
  })
  it('takes the steps of a programme of nine hours, and gives all results to the one that joins them', async () => {
    await db.deleteFrom('step').execute()
    const parts = Array.from({ length: 9000 }, (_, i) => step('a', `p${i}`))
    await queue.offer([
      ...parts,
      step(
        'a',
        'join',
        parts.map((p) => p.key),
      ),
    ])
    await db.updateTable('step').set({ state: 'done', result: '{"n":1}' }).where('key', '!=', 'join').execute()
    await db.updateTable('step').set({ state: 'ready' }).where('key', '=', 'join').execute()
    expect((await queue.results(await claim('w'))).size).toBe(9000)
  })
  it('never fails for lost workers what may have its final name already', async () => {
    await db.updateTable('deliverable').set({ final_path: 'out/a.wav' }).where('id', '=', 'a').execute()
    for (let n = 0; n <= mostLost; n++) {
      expect(await claim(`w${n}`)).toMatchObject({ deliverable: 'a', key: 's0' })
      await queue.abandon(`w${n}`)
    }
    expect(await stateOf('a')).toBe('running')
  })
  it('blames no step for the end of a whole session, however often', async () => {
    for (let n = 0; n <= mostLost; n++) {
      expect(await claim('w')).toMatchObject({ deliverable: 'a', key: 's0', takenOver: n > 0 })
      await queue.reclaim('')
    }
    expect(await stateOf('a')).toBe('running')
  })
  it('gives back what dead workers had in hand', async () => {
    await claim('dead')
    await claim('alive')
    await queue.abandon('dead')
    const held = await db.selectFrom('step').select('worker').where('state', '=', 'claimed').execute()
    expect(held.map((s) => s.worker)).toEqual(['alive'])
  })
  it('adds background work once, and gives it first', async () => {
    const fact = { fact: 'k', source: { root: '', path: '', fingerprint: { size: 0, modified: 0, content: '' } } }
    for (let i = 0; i < 3; i++) await queue.offer([backgroundOffer('analyse-sound', fact, 10)])
    expect(await db.selectFrom('step').select('id').where('run_id', 'is', null).execute()).toHaveLength(1)
    expect((await claim('w')).key).toBe('k')
  })
})
