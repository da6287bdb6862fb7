import { writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { concatBytes } from '../../core/bytes'
import { encodePcm } from '../../core/codec/pcm/pcm'
import { wavHead } from '../../core/container/wav/write'
import { groupFiles } from '../../core/files/fileset'
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

/** A wave file of channels of a sound, and what it states of its loudness. */
function write(name: string, channels: number, integrated: number | null, sound = tone, timeReference = 0): void {
  const loudness =
    integrated === null ? null : { integrated, range: 0, truePeak: -23, momentaryMax: -23, shortTermMax: -23 }
  const told = { description: '', originator: '', originatorReference: '', date: '2026-11-28', time: '03:00:00' }
  const head = wavHead({
    ...{ channels, sampleRate: 48000, bitDepth: 24, samples: sound.length },
    bext: { ...told, timeReference, history: '', loudness },
  })
  writeFileSync(path.join(folder, name), concatBytes([head, encodePcm(Array(channels).fill(sound), 24, true)]))
}

async function judged(name: string, rule = 'trap-stated'): Promise<[string, string]> {
  const list = judgeFile(openSpec, await measureFile(path.join(folder, name)))
  const { verdict, why } = list.find((r) => r.rule.id === rule)!
  return [verdict, why]
}

it.each([
  [null, 'pass', 'Stated loudness: the file states none, as required.'],
  [-23, 'pass', 'Stated loudness: −23.0 LUFS, as measured, as required.'],
  [-16, 'caution', 'Stated loudness: −16.0 LUFS, and measured is −23.0 LUFS; required: none, or as measured.'],
])('a wave file from elsewhere that states %s LUFS: %s', async (integrated, ...expected) => {
  write('tone.wav', 2, integrated)
  expect(await judged('tone.wav')).toEqual(expected)
})

it('what each of several mono files states is not said of their sound together', async () => {
  for (const side of ['L', 'R']) write(`tone.${side}.wav`, 1, -26)
  const [set] = groupFiles(['tone.L.wav', 'tone.R.wav'])
  expect(await judged(set!)).toEqual(['pass', 'Stated loudness: the file states none, as required.'])
})

it('a wave file from elsewhere has no click where it ends at a level, between what would be two frames', async () => {
  for (const end of [0, 13, 480, 1919]) {
    write('short.wav', 2, null, tone.subarray(0, 2 * 48000 + end))
    const { 'sound-faults': faults, duration } = await measureFile(path.join(folder, 'short.wav'))
    expect([end, faults!.text, duration!.value]).toEqual([end, 'none', 2 + end / 48000])
  }
})

it('a wave file from elsewhere begins where its time reference says, to the sample, and drops no labels', async () => {
  for (const [samples, label] of [
    [36_000 * 48_000, '10:00:00:00'],
    [36_000 * 48_000 + 900, '10:00:00:00900'],
  ] as const) {
    write('late.wav', 2, null, tone, samples)
    const read = await measureFile(path.join(folder, 'late.wav'))
    expect([read['start-timecode']!.value, read['drop-frame']]).toEqual([label, undefined])
  }
})

it.each([
  [24, 'pass', 'Sound depth used: 24 bit, all of them, as required.'],
  [
    16,
    'caution',
    'Sound depth used: 24 bit, of which only 16 carry anything: the lowest are always nought; required: all of them.',
  ],
])('a wave file from elsewhere of 24 bits, %s of which carry something', async (bits, ...expected) => {
  const step = 2 ** (bits - 1)
  write(
    'depth.wav',
    2,
    null,
    tone.map((v) => Math.round(v * step) / step),
  )
  expect(await judged('depth.wav', 'trap-filled-up')).toEqual(expected)
})

it('a wave file is measured behind a tone and silence, where it begins with five seconds of them or more', async () => {
  const second = 48000
  /** Of a strength that is never the same for long. */
  const speech = Float32Array.from(
    { length: 8 * second },
    (_, i) => 0.1 * Math.sin(i / 7) * (0.3 + Math.abs(Math.sin(i / 9000))),
  )
  const withTone = (seconds: number): typeof tone => {
    const all = new Float32Array((seconds + 2 + 8) * second)
    for (let i = 0; i < seconds * second; i++) all[i] = 0.4 * Math.sin((2 * Math.PI * 1000 * i) / second)
    all.set(speech, (seconds + 2) * second)
    return all
  }
  const loudness = async (sound: typeof tone) => {
    write('head.wav', 2, null, sound)
    return (await measureFile(path.join(folder, 'head.wav'))).loudness!
  }
  const alone = await loudness(speech)
  const behind = await loudness(withTone(20))
  expect(behind.value as number).toBeCloseTo(alone.value as number, 1)
  expect(behind.text).toBe(`${alone.text}, behind its tone`)
  // a held note is programme
  const note = await loudness(withTone(4))
  expect(note.text).not.toContain('behind')
  expect(note.value as number).toBeGreaterThan((alone.value as number) + 1)
})
