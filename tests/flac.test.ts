import { execFileSync, spawnSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { openSound } from '../core/codec/sound'
import { openMedia } from '../core/container/registry'
import { openFile } from '../engine/storage/disk'
import { machineCodecs } from '../engine/worker/codecs'
import { scratchFolder } from './fixtures'

// FLAC as others code it, against the samples it was made from.

const { folder, remove } = scratchFolder()
afterAll(remove)
const has = (tool: string) => spawnSync(tool, ['--version']).error === undefined

it.runIf(has('sox') && has('mkvmerge')).each([
  ['16', '44100'],
  ['24', '48000'],
])(
  'FLAC of %s bit and %s Hz in Matroska is what was coded, sample for sample, in any order of reading',
  async (bits, rate) => {
    const at = (name: string) => path.join(folder, `${bits}-${name}`)
    // a length that is no whole number of blocks, and two channels that differ
    const made = [
      '-n',
      '-r',
      rate,
      '-c',
      '2',
      '-b',
      bits,
      at('a.flac'),
      'synth',
      '4.321',
      'sine',
      '300',
      'sine',
      '1000-9000',
    ]
    execFileSync('sox', [...made, 'gain', '-3'])
    execFileSync('sox', [at('a.flac'), '-t', 'f32', at('a.raw')])
    execFileSync('mkvmerge', ['-q', '-o', at('a.mkv'), at('a.flac')])
    const bytes = readFileSync(at('a.raw'))
    const samples = bytes.length / 8
    const coded = [0, 1].map((c) => Float32Array.from({ length: samples }, (_, i) => bytes.readFloatLE(i * 8 + c * 4)))
    const file = await openFile(at('a.mkv'))
    const media = await openMedia(file)
    expect(media.info).toMatchObject({
      audio: [{ codec: 'flac', channels: 2, sampleRate: Number(rate), bitDepth: Number(bits), samples }],
      problems: [],
    })
    const sound = openSound(media, machineCodecs())!
    for (const [from, count] of [
      [0, samples],
      [100_000, 5000],
      [samples - 700, 700],
      [12, 3],
    ] as const) {
      const read = await sound.read(from, count)
      for (const c of [0, 1]) expect(read[c]!.every((v, i) => v === coded[c]![from + i])).toBe(true)
    }
    await file.close()
  },
)
