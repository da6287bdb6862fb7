import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { openMedia } from '../../core/container/registry'
import { openSpec } from '../../core/spec/shipped'
import { decodedText } from '../../core/deliverable/proof'
import { deliver, deliverables, recipe, scratchFolder, testEngine } from '../../tests/fixtures'
import { makeScenes } from '../../tests/scenes'
import { makeUnread } from '../../tests/unread'
import type { Session } from '../session'
import { openFile } from '../storage/disk'
import type { DeliverableStep } from '../worker/context'
import { measureFile } from '../worker/measurefile'
import { checkCopied } from '../worker/proving/copied'

// A file whose pictures nobody decodes here: it is copied, and held against its source as it is coded; its sound is
// taken. It begins with a tone, which may be line-up or not.

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
const reel = path.join(storage, 'blind.mov')
let engine: Session

beforeAll(async () => {
  mkdirSync(storage, { recursive: true })
  await makeScenes(reel, [
    [1, 0, 300],
    [0, 0, 75],
    [2, 0, 100],
  ])
  makeUnread(reel, ['v210'], 'vc-5')
  engine = await testEngine(folder)
  const rules = ['line-up-length', 'programme-duration', 'black', 'loudness'].map((measure) => ({
    ...{ id: measure, measure, severity: 'should' as const, expect: { min: -60 }, clause: '1' },
  }))
  await engine.outlets.saveSpec({ ...openSpec, id: 'all', name: 'All', rules })
})
afterAll(async () => {
  await engine.close()
  remove()
})

const range = { in: 20, out: 450 }
const unknown = 'its pictures are not read (kind “vc-5”)'

it('is copied, and proven byte by byte; what was not seen is not passed', async () => {
  const by = recipe('rewrap')
  const made = await deliver(engine, { name: 'copied', file: 'blind.mov', range, by, spec: 'all' })
  expect([made.state, made.problem]).toEqual(['done', null])
  const before = (await deliverables(engine)).find((d) => d.outletId === 'copied')!
  const { proof } = (await engine.handover.one(made.id))!
  const of = (results: typeof proof.results) =>
    Object.fromEntries(results.map((r) => [r.rule.measure, r.verdict] as const))
  const seen = { 'line-up-length': 'unmeasured', 'programme-duration': 'unmeasured', loudness: 'pass' }
  expect(of(before.results)).toMatchObject({ ...seen, black: 'unmeasured' })
  expect(before.results.find((r) => r.rule.measure === 'line-up-length')!.why).toContain(unknown)
  expect(of(proof.results)).toMatchObject({ ...seen, 'first-picture': 'pass', 'last-picture': 'pass' })
  expect(proof.results.find((r) => r.rule.measure === 'last-picture')!.written!.text).toBe(
    'the source’s own, byte by byte',
  )
  expect([proof.stills, proof.decoded, decodedText(proof)]).toEqual([
    null,
    0,
    'No picture can be decoded here: every coded byte of them is the source’s.',
  ])
  const read = await measureFile(path.join(storage, made.path))
  expect([read.intact!.text, read['line-up-length']]).toEqual([
    'whole in its structure; its pictures were not looked through',
    undefined,
  ])
})

it('gives its sound, with a note that what it begins with is not known', async () => {
  const made = await deliver(engine, { name: 'sound', file: 'blind.mov', range, by: recipe('sound') })
  expect([made.state, made.verdict, made.problem]).toEqual(['done', 'pass', null])
  const { output } = (await deliverables(engine)).find((d) => d.outletId === 'sound')!
  expect(output.notes!.join()).toContain(`Whether it begins with line-up is not known: ${unknown}.`)
})

it('does not pass where one byte of a picture, or of its sound, is another', async () => {
  const copy = path.join(folder, 'copy.mov')
  const bytes = readFileSync(reel)
  const source = await openMedia(await openFile(reel))
  const step = {
    item: {
      region: { in: 0, out: 10 },
      target: { path: 'copy.mov' },
      output: { start: { frames: 0, dropFrame: false } },
      timeline: { rate: { num: 25, den: 1 }, start: 0 },
    },
    source: { copy: () => [{ file: { media: source }, range: { in: 0, out: 10 } }] },
    progress: () => undefined,
  } as unknown as DeliverableStep
  const check = async () => {
    writeFileSync(copy, bytes)
    await checkCopied(step, await openMedia(await openFile(copy)))
  }
  await expect(check()).resolves.toBeUndefined()
  const { offset } = source.video[0]!.sample(7)
  bytes[offset + 100]! ^= 1
  await expect(check()).rejects.toThrow('is not, byte by byte, the one of its source')
  bytes[offset + 100]! ^= 1
  const [track] = source.audio
  const sound = track!.pcm ? track!.run(9000) : track!.packet(8)
  bytes[sound.offset + 40]! ^= 1
  await expect(check()).rejects.toThrow('The sound of the file is not its source’s as it is coded, in track 1.')
  // another name of the same bytes is another picture
  bytes.write('vc-6', bytes.indexOf('vc-5', 0, 'latin1'), 'latin1')
  await expect(check()).rejects.toThrow('are described otherwise')
})
