import { describe, expect, it } from 'vitest'
import type { AudioInfo, MediaInfo } from '../../media/media'
import { meets } from '../../spec/judge'
import { describedMedia } from '../described'
import { readMeasures } from '../registry'
import { sampleRate } from './samplerate'
import { soundCodec } from './soundcodec'
import { soundDepth } from './sounddepth'

const track = (more: Partial<AudioInfo> = {}): AudioInfo => ({
  ...{ codec: 'pcm', sampleRate: 48_000, bitDepth: 24, channels: 1, layout: null, samples: 48_000, webCodec: null },
  ...more,
})

function readings(...audio: readonly AudioInfo[]) {
  const info = {
    ...{ container: 'mov', indexAt: 'front', size: 1, durationFrames: null, durationSeconds: 1, timecode: null },
    ...{ video: [], audio, data: [], chapters: [], bext: null, problems: [] },
  } as unknown as MediaInfo
  const read = readMeasures({ described: describedMedia(info, null) }, 'file', [soundCodec, sampleRate, soundDepth])
  return Object.values(read).map((r) => [r.value, r.text])
}

describe('sound of several tracks', () => {
  it('is what each of them is', () =>
    expect(readings(track(), track(), track())).toEqual([
      ['pcm', 'PCM'],
      [48_000, '48 kHz'],
      [24, '24 bit'],
    ]))
  it('meets nothing that is asked of it where they are not alike', () => {
    const [codec, rate, depth] = readings(track(), track({ bitDepth: 16 }), track({ codec: 'aac', sampleRate: 44_100 }))
    expect(codec).toEqual(['mixed', 'PCM in tracks 1 and 2, AAC in track 3'])
    expect(rate).toEqual(['mixed', '48 kHz in tracks 1 and 2, 44.1 kHz in track 3'])
    expect(depth![0]).toBe('mixed')
    expect(depth![1]).toContain('24 bit in track 1, 16 bit in track 2, ')
    for (const [value, text] of [codec!, rate!, depth!])
      for (const e of [{ equals: 'pcm' }, { equals: 48_000 }, { min: 16 }, { oneOf: [16, 24] }])
        expect([text, meets(value as string, e)]).toEqual([text, false])
  })
  it('is not measured where one of them is not known', () =>
    expect(readings(track(), track({ codec: 'ac-3' }))[2]![0]).toBeNull())
})
