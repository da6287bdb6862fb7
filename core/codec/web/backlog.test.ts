import { expect, it } from 'vitest'
import { Backlog } from './backlog'

const never = () => Number.NaN

it('lets pass while fewer wait than may, without asking the codec', async () => {
  const backlog = new Backlog()
  for (let i = 0; i < 5; i++) backlog.add()
  await backlog.below(6, () => expect.unreachable())
  backlog.add()
  backlog.dequeued()
  await backlog.below(6, () => expect.unreachable())
})

it('waits for a place', async () => {
  const backlog = new Backlog()
  let passed = false
  for (let i = 0; i < 3; i++) backlog.add()
  const waiting = backlog.below(3, () => 3).then(() => (passed = true))
  await new Promise((r) => setTimeout(r, 60))
  expect(passed).toBe(false)
  backlog.dequeued()
  await waiting
})

it('asks the codec when no word comes, since several may be told of at once', async () => {
  const backlog = new Backlog()
  for (let i = 0; i < 10; i++) backlog.add()
  let asked = 0
  await backlog.below(4, () => {
    asked++
    return 2
  })
  expect(asked).toBe(1)
})

it('throws what the codec stopped with, first of all', async () => {
  const backlog = new Backlog()
  for (let i = 0; i < 10; i++) backlog.add()
  const waiting = backlog.below(1, never)
  setTimeout(() => {
    backlog.failed(new Error('first'))
    backlog.failed(new Error('second'))
  }, 5)
  await expect(waiting).rejects.toThrow('first')
})
