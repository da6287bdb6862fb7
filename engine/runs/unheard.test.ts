import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { keyText } from '../../core/deliverable/outlet'
import type { Recipe } from '../../core/recipe/recipe'
import {
  deliver,
  deliverables,
  drain,
  outlet,
  recipe,
  scratchFolder,
  smallReel,
  testEngine,
} from '../../tests/fixtures'
import type { Session } from '../session'
import { measureFile } from '../worker/measurefile'

// Sound that cannot be decoded here keeps back what is made of it, and nothing else.

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
let engine: Session

/** Calls the PCM of a MOV by another codec's name (`in24`, `sowt`, `twos` of QuickTime). */
function madeUnheard(file: string): void {
  const bytes = readFileSync(file)
  const at = ['in24', 'sowt', 'twos'].map((name) => bytes.indexOf(name, 0, 'latin1')).find((n) => n > 0)!
  bytes.write('ac-3', at, 'latin1')
  writeFileSync(file, bytes)
}

const cut = `TITLE: show
FCM: NON-DROP FRAME
001  REEL     AA/V  C        10:00:59:05 10:01:00:20 01:00:00:00 01:00:01:15
* FROM CLIP NAME: heard.mov
002  OTHER    AA/V  C        10:00:59:05 10:01:00:20 01:00:01:15 01:00:03:05
* FROM CLIP NAME: unheard.mov
`

/** The same pictures throughout, with the sound of the other one. */
const crossed = `TITLE: crossed
FCM: NON-DROP FRAME
001  REEL     AA     C        10:00:59:05 10:01:00:20 01:00:00:00 01:00:01:15
* FROM CLIP NAME: heard.mov
002  OTHER    V      C        10:00:59:05 10:01:00:20 01:00:00:00 01:00:01:15
* FROM CLIP NAME: unheard.mov
`

beforeAll(async () => {
  mkdirSync(storage, { recursive: true })
  await smallReel(path.join(storage, 'heard.mov'))
  await smallReel(path.join(storage, 'unheard.mov'))
  madeUnheard(path.join(storage, 'unheard.mov'))
  for (const name of ['show.edl', 'first.edl']) writeFileSync(path.join(storage, name), cut)
  writeFileSync(path.join(storage, 'crossed.edl'), crossed)
  engine = await testEngine(folder)
})
afterAll(async () => {
  await engine.close()
  remove()
})

/** What is said of a file that would be made of the region of a timeline, once all is measured. */
async function foreseen(file: string, by: Recipe): Promise<readonly string[]> {
  const t = (await engine.timelines.list()).find((x) => x.file.path === file)!
  const key = { timelineId: t.id, regionId: 'r', outletId: `${by.kind}-with-sound` }
  await engine.outlets.save(outlet(key.outletId, 'storage', by))
  await engine.outlets.choose([key], true)
  await drain(engine)
  const own = (await deliverables(engine)).find((d) => keyText(d) === keyText(key))!
  return own.results.filter((r) => r.blocks).map((r) => r.why)
}

it('of a list keeps back what takes from it alone', async () => {
  // the first of its two shots can be heard
  const made = await deliver(engine, {
    name: 'one-shot',
    file: 'first.edl',
    range: { in: 4, out: 36 },
    by: recipe('sound'),
  })
  expect([made.state, made.verdict, made.problem]).toEqual(['done', 'pass', null])
  const { loudness } = await measureFile(path.join(storage, made.path))
  expect(loudness!.value).toBeGreaterThan(-40)
})

it('keeps back nothing that takes only its pictures', async () => {
  const range = { in: 4, out: 36 }
  const made = await deliver(engine, { name: 'crossed', file: 'crossed.edl', range, by: recipe('viewing') })
  expect([made.state, made.verdict, made.problem]).toEqual(['done', 'pass', null])
  const { loudness } = await measureFile(path.join(storage, made.path))
  expect(loudness!.value).toBeGreaterThan(-40)
})

it.each(['unheard.mov', 'show.edl'])(
  'of %s pictures are measured and made, and sound is refused before',
  async (file) => {
    const by = recipe('viewing', { channels: 'none' })
    const made = await deliver(engine, { name: `mute-${file}`, file, range: { in: 10, out: 60 }, by })
    expect([made.state, made.verdict, made.problem]).toEqual(['done', 'pass', null])
    for (const kind of ['viewing', 'sound', 'master'])
      expect((await foreseen(file, recipe(kind))).join()).toContain('Sound of kind “ac-3” cannot be decoded here')
  },
)
