import { describe, expect, it } from 'vitest'
import type { AncillaryFacts } from '../../media/ancillary'
import type { CaptionFacts } from '../../media/captions/meter'
import type { DataInfo } from '../../media/media'
import { makeRate } from '../../time/rate'
import type { Evidence } from '../measure'
import { captionPackets, captions } from './captions'

const facts = (of: CaptionFacts | null, services: AncillaryFacts['services'] = {}): AncillaryFacts => ({
  ...{ frames: 100, services, formats: [], captions: of },
})
const whole: CaptionFacts = { frames: 100, letters: { CC1: 340, S1: 1 }, faults: [] }
const both = (own: Evidence) => {
  const e = { coded: null, ...own }
  return [captions.read(e)?.value, captionPackets.read(e)?.value]
}
const track = (kind: DataInfo['kind']): DataInfo => ({ kind, label: kind, carries: [] })

describe('captions of a file', () => {
  it('are told by what says something, and whole where nothing is wrong', () => {
    const e: Evidence = { ancillary: facts(whole), besides: [track('ancillary')] }
    expect(both(e)).toEqual([['CC1', 'S1'], 'whole'])
    expect(captions.read(e)!.text).toBe('CC1 (340 letters) and S1 (1 letter)')
  })
  it('that say nothing are not whole, nor are those that are faulty', () => {
    const empty = facts({ ...whole, letters: {} })
    expect(both({ ancillary: empty, besides: [] })).toEqual([[], 'empty'])
    const faults = [
      { fault: 'missing', frames: 2, at: 7 },
      { fault: 'rate', frames: 98, at: 9 },
    ] as const
    const file = { rate: makeRate(25), dropFrame: false, start: 90_000 }
    const faulty = { ancillary: facts({ ...whole, letters: {}, faults }), besides: [], file }
    expect(both(faulty)).toEqual([[], 'faulty'])
    expect(captionPackets.read(faulty)!.text).toBe(
      'they say nothing; no packet in 2 frames, first at 01:00:00:07; ' +
        'a packet of another frame rate in 98 frames, first at 01:00:00:09',
    )
  })
  it('are none where a file has nothing that could be any', () => {
    for (const kind of ['ancillary', 'metadata'] as const)
      expect(both({ ancillary: facts(null, { timecode: 100 }), besides: [track(kind)] })).toEqual([[], 'none'])
    expect(both({ ancillary: null, besides: [] })).toEqual([[], 'none'])
    expect(both({ described: { video: null } as unknown as Evidence['described'] })).toEqual([[], 'none'])
  })
  it('are not measured where they may be something that is not looked into', () => {
    for (const kind of ['text', 'vbi', 'other'] as const)
      expect(both({ ancillary: null, besides: [track(kind)] })).toEqual([undefined, undefined])
    for (const service of ['captions-608', 'subtitles-op47', 'teletext-op47'])
      expect(both({ ancillary: facts(null, { [service]: 3 }), besides: [] })).toEqual([undefined, undefined])
    expect(both({})).toEqual([undefined, undefined])
    expect(both({ ancillary: null, besides: [], coded: undefined })).toEqual([undefined, undefined])
  })
  it('are those of its pictures where it has no packets', () => {
    expect(both({ ancillary: null, besides: [track('pictures')], coded: { captions: whole, leaning: null } })).toEqual([
      ['CC1', 'S1'],
      'whole',
    ])
  })
})
