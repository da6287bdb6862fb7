import { execFileSync, spawnSync } from 'node:child_process'
import { writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { mp4 } from '../core/container/mp4/container'
import { scratchFolder } from './fixtures'

// Sample rates of our MOV files as another reader takes them.

const { folder, remove } = scratchFolder()
afterAll(remove)
const has = (tool: string) => spawnSync(tool, ['--version']).error === undefined

it.runIf(has('mkvmerge')).each([44_100, 48_000, 96_000])('sound at %d Hz is taken for that', (sampleRate) => {
  const samples = sampleRate / 10
  const { head, tail } = mp4.layout!('mov', {
    ...{ frames: samples, rate: { num: sampleRate, den: 1 }, start: { frames: 0, dropFrame: false }, chapters: [] },
    dataSize: samples * 6,
    tracks: [
      {
        essence: {
          kind: 'audio',
          codec: 'pcm',
          channels: 2,
          sampleRate,
          layout: 'L R',
          configuration: null,
          bitrate: 0,
        },
        timescale: sampleRate,
        sizes: { constant: 6, count: samples },
        durations: { constant: 1 },
        chunks: [{ offset: 0, samples }],
      },
    ],
  })
  const file = path.join(folder, `${sampleRate}.mov`)
  writeFileSync(file, Buffer.concat([head, Buffer.alloc(samples * 6), tail ?? Buffer.alloc(0)]))
  const told = JSON.parse(execFileSync('mkvmerge', ['-J', file], { encoding: 'utf8' })) as {
    tracks: { type: string; properties: Record<string, unknown> }[]
  }
  expect(told.tracks.filter((t) => t.type === 'audio').map((t) => t.properties)).toMatchObject([
    { audio_sampling_frequency: sampleRate, audio_channels: 2, audio_bits_per_sample: 24 },
  ])
})
