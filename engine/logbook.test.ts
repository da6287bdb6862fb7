import { mkdirSync, readdirSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { ProblemError } from '../core/problem'
import { scratchFolder } from '../tests/fixtures'
import { log, logFolder, logInto } from './log'
import { entryOf, lastEntries } from './logbook'

const { folder, remove } = scratchFolder()
afterAll(remove)

it('keeps a file a day, thirty of them, and gives the last entries across days', () => {
  mkdirSync(logFolder(folder))
  for (let day = 1; day <= 31; day++)
    writeFileSync(
      path.join(logFolder(folder), `velvet-2026-10-${String(day).padStart(2, '0')}.log`),
      `{"level":40,"time":"2026-10-${day}","msg":"day ${day}"}\n`,
    )
  logInto(folder)
  expect(readdirSync(logFolder(folder))).toHaveLength(30)
  const err = new ProblemError({ code: 'disk.full', message: 'The disk is full.' })
  log().error({ err, worker: 'w', step: 'segment-3', deliverable: 'd', run: null }, 'a step failed')
  const [today] = readdirSync(logFolder(folder)).reverse()
  expect(today).toBe(`velvet-${new Date().toISOString().slice(0, 10)}.log`)
  const [first, second, third] = lastEntries(folder, 3)
  expect(first).toMatchObject({
    level: 'error',
    text: 'a step failed: The disk is full.',
    about: [
      ['worker', 'w'],
      ['step', 'segment-3'],
      ['deliverable', 'd'],
    ],
    stack: expect.stringContaining('logbook.test') as string,
  })
  expect([second!.text, third!.text]).toEqual(['day 31', 'day 30'])
})

it('leaves out lines that break off', () => {
  for (const line of ['', '{"level":50,"msg":"a st', 'evel":50}']) expect(entryOf(line)).toBeNull()
})
