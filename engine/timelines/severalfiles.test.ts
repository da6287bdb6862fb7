import { mkdirSync, rmSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { makeRate } from '../../core/time/rate'
import { drain, scratchFolder, testEngine } from '../../tests/fixtures'
import { tones } from '../../tests/tones'

const { folder, remove } = scratchFolder()
afterAll(remove)

it('says of a reel of several files which one is gone, and which events took from it', async () => {
  const storage = path.join(folder, 'storage')
  mkdirSync(storage, { recursive: true })
  tones(path.join(storage, 'BAND_1.wav'), [1000], 48_000, 10)
  tones(path.join(storage, 'BAND_2.wav'), [1000], 44_100, 20)
  const list = [
    'TITLE: TIDES',
    'FCM: NON-DROP FRAME',
    '001  BAND     A    C        00:00:10:00 00:00:13:00 01:00:00:00 01:00:03:00',
    '002  BAND     A    C        00:00:20:00 00:00:22:00 01:00:03:00 01:00:05:00',
  ]
  writeFileSync(path.join(storage, 'tides.edl'), list.join('\n'))
  const engine = await testEngine(folder)
  const t = await engine.timelines.bringIn({ root: 'storage', path: 'tides.edl' }, { rate: makeRate(25) })
  const told = async () =>
    (await engine.timelines.sources(t)).map((s) => [s.state, s.troubles?.map((x) => [x.state, x.events])])
  expect(await told()).toEqual([['sound-rate', [['sound-rate', [1]]]]])
  rmSync(path.join(storage, 'BAND_2.wav'))
  await engine.timelines.media.look()
  await drain(engine)
  expect(await told()).toEqual([
    [
      'missing',
      [
        ['missing', [1]],
        ['sound-rate', [1]],
      ],
    ],
  ])
  await engine.close()
})
