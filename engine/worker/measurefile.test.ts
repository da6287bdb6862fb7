import { writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { concatBytes } from '../../core/bytes'
import { encodePcm } from '../../core/codec/pcm/pcm'
import { wavHead } from '../../core/container/wav/write'
import { judgeFile } from '../../core/spec/judgefile'
import { openSpec } from '../../core/spec/shipped'
import { scratchFolder } from '../../tests/fixtures'
import { measureFile } from './measurefile'

const { folder, remove } = scratchFolder()
afterAll(remove)

/** Five seconds of a stereo tone of 1 kHz at −23 dBFS, which are −23 LUFS (EBU Tech 3341 case 1). */
const tone = Float32Array.from(
  { length: 5 * 48000 },
  (_, i) => 10 ** (-23 / 20) * Math.sin((2 * Math.PI * 1000 * i) / 48000),
)

it.each([
  [null, 'pass', 'Stated loudness: the file states none, as required.'],
  [-23, 'pass', 'Stated loudness: −23.0 LUFS, as measured, as required.'],
  [-16, 'caution', 'Stated loudness: −16.0 LUFS, and measured is −23.0 LUFS; required: none, or as measured.'],
])('a wave file from elsewhere that states %s LUFS: %s', async (integrated, verdict, why) => {
  const loudness =
    integrated === null ? null : { integrated, range: 0, truePeak: -23, momentaryMax: -23, shortTermMax: -23 }
  const told = { description: '', originator: '', originatorReference: '', date: '2026-11-28', time: '03:00:00' }
  const head = wavHead({
    ...{ channels: 2, sampleRate: 48000, bitDepth: 24, samples: tone.length },
    bext: { ...told, timeReference: 0, history: '', loudness },
  })
  const file = path.join(folder, 'tone.wav')
  writeFileSync(file, concatBytes([head, encodePcm([tone, tone], 24, true)]))
  const result = judgeFile(openSpec, await measureFile(file)).find((r) => r.rule.id === 'trap-stated')!
  expect([result.verdict, result.why]).toEqual([verdict, why])
})
