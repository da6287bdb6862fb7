import { describe, expect, it, vi } from 'vitest'
import { encodePcm } from '../../core/codec/pcm/pcm'
import { wavHead } from '../../core/container/wav/write'
import { extremes, pieceLength, readWave, wavePiece, type Wave } from './wave'

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
    const t = { id: 't', model: { length: 2 }, fingerprint: { content: 'c' } }
    const told = [vi.fn(), vi.fn()]
    expect(told.map((ready) => wavePiece(t, 0, ready))).toEqual([null, null])
    await expect.poll(() => told.map((ready) => ready.mock.calls.length)).toEqual([1, 1])
    expect([asked.mock.calls.length, wavePiece(t, 0, () => undefined)!.map((c) => [...c])]).toEqual([1, [[16384, 0]]])
    expect([wavePiece(t, 1, told[0]!), wavePiece(t, -1, told[0]!)]).toEqual([null, null])
    vi.unstubAllGlobals()
  })
  it('has its lowest and highest sample across pieces, and none where nothing is there yet', () => {
    const first = new Int16Array(pieceLength)
    first[pieceLength - 1] = 900
    const second = Int16Array.of(-700, 5)
    const pieces: (Wave | null)[] = [[first], [second], null]
    const of = (n: number) => pieces[n] ?? null
    expect(extremes(of, 0, pieceLength - 2, pieceLength + 2)).toEqual({ low: -700, high: 900 })
    expect(extremes(of, 0, pieceLength + 1, pieceLength + 50)).toEqual({ low: 5, high: 5 })
    expect(extremes(of, 0, 2 * pieceLength, 2 * pieceLength + 9)).toBeNull()
    expect(extremes(of, 1, 0, 9)).toBeNull()
  })
})
