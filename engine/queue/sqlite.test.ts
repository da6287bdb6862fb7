import path from 'node:path'
import { afterAll, beforeEach, describe, expect, it } from 'vitest'
import { scratchFolder } from '../../tests/fixtures'
import { openDatabase, type Db } from '../store/database'
import { Cancelled, Dispatch } from './sqlite'

const { folder, remove } = scratchFolder()
let db: Db
let dispatch: Dispatch
let n = 0
const range = { in: 0, out: 10 }

beforeEach(async () => {
  db = await openDatabase(path.join(folder, `${n++}.sqlite`))
  dispatch = new Dispatch(db)
  await db
    .insertInto('run')
    .values({ id: 'r', name: 'r', state: 'running', workers: 2, created: '', finished: null, sheet: '' })
    .execute()
  for (const [position, id] of ['a', 'b'].entries()) {
    await db
      .insertInto('item')
      .values({
        id,
        run_id: 'r',
        position,
        state: 'waiting',
        sheet: '{}',
        final_path: null,
        result: null,
        problem: null,
        started: null,
        finished: null,
      })
      .execute()
    await dispatch.addItem('r', id, [
      { key: 's0', kind: 'segment', needs: [], range },
      { key: 's1', kind: 'segment', needs: [], range },
      { key: 'join', kind: 'join', needs: ['s0', 's1'], range },
    ])
  }
})
afterAll(remove)

describe('dispatch', () => {
  it('hands each task to one worker only, in the order of the list', async () => {
    const claimed = await Promise.all(Array.from({ length: 8 }, (_, i) => dispatch.claim(`w${i}`, 0)))
    expect(
      claimed
        .filter(Boolean)
        .map((t) => `${t!.item_id}${t!.key}`)
        .sort(),
    ).toEqual(['as0', 'as1', 'bs0', 'bs1'])
  })
  it('makes a step ready when what it needs is done', async () => {
    for (const w of ['x', 'y']) await dispatch.finished((await dispatch.claim(w, 0))!, null)
    expect((await dispatch.claim('z', 0))!.key).toBe('join')
  })
  it('respects the number of workers and pauses', async () => {
    expect(await dispatch.claim('w', 2)).toBeNull()
    await db.updateTable('run').set({ state: 'paused' }).execute()
    expect(await dispatch.claim('w', 0)).toBeNull()
  })
  it('takes a lease that ran out away from a worker that fell silent', async () => {
    const t = (await dispatch.claim('slow', 0))!
    await db.updateTable('task').set({ lease_until: 1 }).where('id', '=', t.id).execute()
    const again = (await dispatch.claim('quick', 0))!
    expect(again.id).toBe(t.id)
    await expect(dispatch.heartbeat(t, 5)).rejects.toBeInstanceOf(Cancelled)
    await expect(dispatch.finished(t, null)).rejects.toBeInstanceOf(Cancelled)
    await dispatch.heartbeat(again, 5)
  })
  it('gives up on a step that takes its workers down again and again', async () => {
    for (let i = 0; i < 5; i++) {
      await dispatch.claim(`w${i}`, 0)
      await db.updateTable('task').set({ lease_until: 1 }).where('state', '=', 'leased').execute()
    }
    const item = await db.selectFrom('item').selectAll().where('id', '=', 'a').executeTakeFirstOrThrow()
    expect(item.state).toBe('failed')
    expect(JSON.parse(item.problem!)).toMatchObject({ code: 'worker.lost' })
  })
  it('one failure does not stop the rest, and the run ends when all have', async () => {
    await dispatch.failed((await dispatch.claim('w', 0))!, { code: 'x', message: 'x' })
    for (let t = await dispatch.claim('w', 0); t; t = await dispatch.claim('w', 0)) {
      expect(t.item_id).toBe('b')
      await dispatch.finished(t, null)
    }
    await dispatch.endItem('b', 'done', null)
    expect((await db.selectFrom('run').select('state').executeTakeFirstOrThrow()).state).toBe('done')
  })
  it('gives back what dead workers had in hand', async () => {
    await dispatch.claim('1-dead', 0)
    await dispatch.claim('2-alive', 0)
    await dispatch.release((o) => o === '1-dead')
    expect(
      (await db.selectFrom('task').select('owner').where('state', '=', 'leased').execute()).map((t) => t.owner),
    ).toEqual(['2-alive'])
  })
  it('adds background work once', async () => {
    for (let i = 0; i < 3; i++) await dispatch.addBackground('analyse-sound', 'k', {}, 10)
    expect(await db.selectFrom('task').select('id').where('run_id', 'is', null).execute()).toHaveLength(1)
    expect((await dispatch.claim('w', 0))!.key).toBe('k')
  })
})
