import { describe, expect, it, vi } from 'vitest'
import { encodePcm } from '../../core/codec/pcm/pcm'
import { wavHead } from '../../core/container/wav/write'
import { makeRate, type Rate } from '../../core/time/rate'
import { sampleAtFrame } from '../../core/time/samples'
import { extremes, piecesOf, readWave, wavePiece, type Wave } from './wave'

const waved = (sampleRate: number, rate: Rate, length: number) => ({
  ...{ model: { rate, length }, info: { audio: [{ channels: 1, sampleRate }] } },
})

const bext = {
  ...{ description: '', originator: '', originatorReference: '', date: '', time: '', history: '' },
  timeReference: 0,
  loudness: null,
}

describe('a wave', () => {
  it('is read from what the server sends, channel by channel', () => {
    const sound = [Float32Array.of(0, 0.5, -0.5), Float32Array.of(1, 0, 0.25)]
    const head = wavHead({ channels: 2, sampleRate: 8000, bitDepth: 16, samples: 3, bext })
    const bytes = Uint8Array.from([...head, ...encodePcm(sound, 16, true)])
    expect(readWave(bytes.buffer)!.map((c) => [...c])).toEqual([
      [0, 16384, -16384],
      [32767, 0, 8192],
    ])
    expect(readWave(bytes.buffer.slice(0, 40))).toBeNull()
    expect(readWave(new ArrayBuffer(3))).toBeNull()
  })
  it('is fetched once for all who ask for it, and each is told when it is there', async () => {
    const head = wavHead({ channels: 1, sampleRate: 8000, bitDepth: 16, samples: 2, bext })
    const bytes = Uint8Array.from([...head, ...encodePcm([Float32Array.of(0.5, 0)], 16, true)])
    const asked = vi.fn(async () => ({ ok: true, arrayBuffer: async () => bytes.buffer }))
    vi.stubGlobal('fetch', asked)
    const t = { ...waved(8000, makeRate(8000), 2), id: 't', fingerprint: { content: 'c' } }
    const told = [vi.fn(), vi.fn()]
    expect(told.map((ready) => wavePiece(t, 0, ready))).toEqual([null, null])
    await expect.poll(() => told.map((ready) => ready.mock.calls.length)).toEqual([1, 1])
    expect([asked.mock.calls.length, wavePiece(t, 0, () => undefined)!.map((c) => [...c])]).toEqual([1, [[16384, 0]]])
    expect([wavePiece(t, 1, told[0]!), wavePiece(t, -1, told[0]!)]).toEqual([null, null])
    vi.unstubAllGlobals()
  })
  it.each([
    ['samples', makeRate(48000), 2 ** 19],
    ['frames', makeRate(25), 273],
    ['frames that are no whole number of samples', makeRate(30000, 1001), 327],
  ])(
    'has its lowest and highest sample across pieces of %s, and none where nothing is there yet',
    (_, rate, frames) => {
      const pieces = piecesOf(waved(48000, rate, 1e9))
      const length = pieces.begin(1)
      expect([pieces.frames, length]).toEqual([frames, sampleAtFrame(frames, rate, 48000)])
      expect([pieces.at(length - 1), pieces.at(length)]).toEqual([0, 1])
      const first = new Int16Array(length)
      first[length - 1] = 900
      const second = Int16Array.of(-700, 5)
      const there: (Wave | null)[] = [[first], [second], null]
      const of = (channel: number, from: number, to: number) =>
        extremes(pieces, (n) => there[n] ?? null, channel, from, to)
      expect(of(0, length - 2, length + 2)).toEqual({ low: -700, high: 900 })
      expect(of(0, length + 1, length + 50)).toEqual({ low: 5, high: 5 })
      expect(of(0, pieces.begin(2), pieces.begin(2) + 9)).toBeNull()
      expect(of(1, 0, 9)).toBeNull()
    },
  )
})
