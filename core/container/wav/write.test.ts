import { describe, expect, it } from 'vitest'
import { concatBytes, memorySource, type ByteSource } from '../../bytes'
import { encodePcm } from '../../codec/pcm/pcm'
import { openSound } from '../../codec/sound'
import { openMedia } from '../registry'
import type { ProblemError } from '../../problem'
import { layoutMask, maskLayout } from './speakers'
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
  /** A file of one format chunk (WAVEFORMATEX, or WAVEFORMATEXTENSIBLE of `valid` bits) and six bytes of sound. */
  const plain = (bits: number, apart: number, valid: number | null = null) => {
    const le = (size: number, v: number) => Uint8Array.from({ length: size }, (_, i) => (v / 256 ** i) & 255)
    const text = (t: string) => new TextEncoder().encode(t)
    const more = valid === null ? [] : [le(2, 22), le(2, valid), le(4, 1), le(2, 1), new Uint8Array(14)]
    const format = [le(2, valid === null ? 1 : 0xfffe), le(2, 1), le(4, 48000), le(4, 48000 * apart), le(2, apart)]
    const fmt = concatBytes([...format, le(2, bits), ...more])
    const sound = Uint8Array.of(0, 0, 64, 0, 0, 192)
    const parts = [text('fmt '), le(4, fmt.length), fmt, text('data'), le(4, sound.length), sound]
    return openMedia(memorySource(concatBytes([text('RIFF'), le(4, 0), text('WAVE'), ...parts]), 'a.wav'))
  }
  it('says how many bits of its samples are in use', async () => {
    expect((await plain(24, 3, 20)).info.audio[0]!.bitDepth).toBe(20)
    const twenty = await plain(20, 3)
    expect(twenty.info.audio[0]!.bitDepth).toBe(20)
    expect(await openSound(twenty, null)!.read(0, 2)).toEqual([Float32Array.of(0.5, -0.5)])
    expect((await plain(24, 3, 90)).info.audio[0]!.bitDepth).toBe(24)
  })
  it('whose samples stand further apart than they are large is refused, and not read as what it is not', async () => {
    await expect(plain(16, 3)).rejects.toMatchObject({ problem: { code: 'wav.format' } })
  })
  it('names six channels in a mask', async () => {
    const { info } = await openMedia(
      memorySource(concatBytes([head({ channels: 6, samples: 10 }), new Uint8Array(180)]), 'a.wav'),
    )
    expect(info.audio[0]).toMatchObject({ channels: 6, layout: 'L R C LFE Ls Rs' })
  })
  it.each([
    ['those behind are the surrounds', 'L R C LFE Ls Rs', 0x3f],
    ['those at the sides too', 'L R C LFE Rls Rrs Ls Rs', 0x63f],
    ['no surround', 'L R C', 0x7],
    ['an order that a mask cannot say', 'L C R Ls Rs LFE', 0],
    ['several mixes', 'L R L R L R', 0],
    ['nothing that is known', null, 0],
  ])('says which channel is which as far as a mask can: %s', async (_, layout, mask) => {
    const channels = layout?.split(' ').length ?? 6
    expect(layoutMask(channels, layout)).toBe(mask)
    const bytes = concatBytes([head({ channels, layout, samples: 10 }), new Uint8Array(30 * channels)])
    expect((await openMedia(memorySource(bytes, 'a.wav'))).info.audio[0]!.layout).toBe(mask ? layout : null)
  })
  it('reads masks of others: surrounds at the sides, and those that name too few', () => {
    expect(maskLayout(0x60f, 6)).toBe('L R C LFE Ls Rs')
    expect(maskLayout(0x33, 4)).toBe('L R Ls Rs')
    expect(maskLayout(0x3, 6)).toBeNull()
    expect(maskLayout(0x80000003, 3)).toBeNull()
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
