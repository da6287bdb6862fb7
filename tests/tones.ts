import { writeFileSync } from 'node:fs'
import { encodePcm } from '../core/codec/pcm/pcm'
import { wavHead } from '../core/container/wav/write'

/** Four seconds of tones, one a channel, in a WAV of 24 bits that counts from a second of the day on. */
export function tones(file: string, hertz: readonly number[], sampleRate = 48_000, second = 0): void {
  const samples = 4 * sampleRate
  const channels = hertz.map((h) =>
    Float32Array.from({ length: samples }, (_, n) => 0.5 * Math.sin((2 * Math.PI * h * n) / sampleRate)),
  )
  const said = { description: '', originator: '', originatorReference: '', date: '', time: '', history: '' }
  const bext = { ...said, timeReference: second * sampleRate, loudness: null }
  const head = wavHead({ channels: hertz.length, sampleRate, bitDepth: 24, samples, cues: [], bext })
  writeFileSync(file, Buffer.concat([head, encodePcm(channels, 24, true)]))
}
