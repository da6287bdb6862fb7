import { describe, expect, it } from 'vitest'
import { concatBytes, memorySource, type ByteSource } from '../../bytes'
import { encodePcm } from '../../codec/pcm/pcm'
import { openSound } from '../../codec/sound'
import { openMedia } from '../registry'
import type { ProblemError } from '../../problem'
import { wavHead, type WavHead } from './write'

const bext: WavHead['bext'] = {
  description: 'The Ferry Almanac: Fog Bell',
  originator: 'Velvet Crane',
  originatorReference: 'FA-103',
  date: '2026-11-25',
  time: '03:00:00',
  timeReference: 1_728_000_000,
  history: 'A=PCM\r\n',
  loudness: { integrated: -23.04, range: 4.2, truePeak: -3, momentaryMax: -20, shortTermMax: null },
}
const head = (changes: Partial<WavHead> = {}) =>
  wavHead({ channels: 2, sampleRate: 48000, bitDepth: 24, samples: 100, bext, ...changes })

describe('broadcast wave', () => {
  it('comes back with its samples and its bext', async () => {
    const x = [
      Float32Array.from({ length: 100 }, (_, i) => i / 128),
      Float32Array.from({ length: 100 }, (_, i) => (1 - i) / 128),
    ]
    const media = await openMedia(memorySource(concatBytes([head(), encodePcm(x, 24, true)]), 'a.wav'))
    expect(media.info).toMatchObject({
      container: 'wav',
      bext: {
        description: bext.description,
        originatorReference: 'FA-103',
        timeReference: 1_728_000_000,
        version: 2,
        loudness: -23.04,
      },
    })
    expect(media.info.audio[0]).toMatchObject({ channels: 2, sampleRate: 48000, bitDepth: 24, samples: 100 })
    const sound = openSound(media, null)!
    expect(await sound.read(-5, 110)).toEqual(x.map((c) => Float32Array.from([0, 0, 0, 0, 0, ...c, 0, 0, 0, 0, 0])))
  })
  it('becomes RF64 over 4 GiB', async () => {
    const bytes = head({ samples: 1_000_000_000 })
    const source: ByteSource = {
      name: 'big.wav',
      size: bytes.length + 6_000_000_000,
      read: async (o, n) => {
        const out = new Uint8Array(n)
        if (o < bytes.length) out.set(bytes.subarray(o, o + n))
        return out
      },
    }
    const { info } = await openMedia(source)
    expect(info).toMatchObject({ container: 'rf64', audio: [{ samples: 1_000_000_000 }], problems: [] })
  })
  it('names six channels in a mask', async () => {
    const { info } = await openMedia(
      memorySource(concatBytes([head({ channels: 6, samples: 10 }), new Uint8Array(180)]), 'a.wav'),
    )
    expect(info.audio[0]).toMatchObject({ channels: 6, layout: 'L R C LFE Ls Rs' })
  })
  it('keeps what there is of a file cut short, and names what is none', async () => {
    const { info } = await openMedia(memorySource(concatBytes([head(), new Uint8Array(60)]), 'a.wav'))
    expect(info.problems[0]!.code).toBe('file.truncated')
    expect(info.audio[0]!.samples).toBe(10)
    for (const [bytes, code] of [
      [head().subarray(0, 40), 'wav.no-format'],
      [head().subarray(0, head().length - 8), 'wav.no-sound'],
    ] as const) {
      await expect(openMedia(memorySource(bytes, 'a.wav')).catch((e: ProblemError) => e.problem.code)).resolves.toBe(
        code,
      )
    }
  })
})
