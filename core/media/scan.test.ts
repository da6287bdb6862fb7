import { expect, it } from 'vitest'
import type { MediaInfo, Scan, VideoInfo } from './media'
import { asLabelled, saidOf, scanSchema, takenAs } from './scan'

const doubt = { code: 'media.scan-untold', message: 'It does not say.' }
const other = { code: 'media.rate-off', message: 'Its frames run at another rate.' }

/** Media of a scan; of one that its file does not tell, with what is said of that. */
function media(scan: Scan, untold: VideoInfo['untold'] = []): MediaInfo {
  const video = { codec: 'v210', scan, ...(untold.length ? { untold } : {}) } as unknown as VideoInfo
  const problems = untold.includes('scan') ? [other, doubt] : [other]
  return { video: [video], audio: [], problems } as unknown as MediaInfo
}

it.each(scanSchema.options)(
  'pictures taken for %s are so whatever their file says, and can be taken so again',
  (scan) => {
    for (const own of scanSchema.options) {
      const info = media(own)
      const taken = takenAs(info, scan)
      expect(taken.video[0]!.scan).toBe(scan)
      expect(saidOf(taken)).toEqual(own === scan ? {} : { scan })
      expect(takenAs(info, saidOf(taken).scan)).toEqual(taken)
      expect(asLabelled(taken.video[0]!)).toEqual(info.video[0])
      expect(taken.problems).toEqual([other])
    }
  },
)

it('what a file does not tell is told by a person, and stays untold of a copy', () => {
  for (const untold of [['scan'], ['chroma', 'scan']] as const) {
    const info = media('progressive', untold)
    expect(takenAs(info, undefined)).toBe(info)
    const taken = takenAs(info, 'progressive')
    expect(taken.problems).toEqual([other])
    expect(taken.video[0]).toMatchObject({ scan: 'progressive', labelled: null })
    expect(taken.video[0]!.untold).toEqual(untold.length > 1 ? ['chroma'] : undefined)
    expect(saidOf(taken)).toEqual({ scan: 'progressive' })
    expect(asLabelled(taken.video[0]!)).toEqual(info.video[0])
    expect(asLabelled(takenAs(info, 'interlaced-bff').video[0]!)).toEqual(info.video[0])
  }
})

it('media without pictures is as it is', () => {
  const sound = { video: [], audio: [], problems: [] } as unknown as MediaInfo
  expect(takenAs(sound, 'segmented')).toBe(sound)
  expect(saidOf(sound)).toEqual({})
})
