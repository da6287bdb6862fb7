import type { DataInfo } from '../../media/media'
import { captionFaults, type CaptionFacts } from '../../media/captions/meter'
import { listed, plural } from '../../text'
import type { Frames } from '../../time/rate'
import { formatTimecode } from '../../time/timecode'
import { said, type Evidence, type Measure } from '../measure'

const shared = { stage: 'written', ends: true, group: 'structure' } as const

/** What may be captions as well, and is not looked into. */
const unread = new Set(['captions-608', 'subtitles-op47', 'teletext-op47'])
const unreadKinds = new Set<DataInfo['kind']>(['text', 'vbi', 'other'])

/** What captions say; null where there are none, undefined where that is not known. */
function factsIn({ ancillary, coded, besides, described }: Evidence): CaptionFacts | null | undefined {
  if (described && !described.video) return null
  const read = ancillary?.captions ?? coded?.captions
  if (read) return read
  const untold = coded === undefined || (coded?.captions === undefined && coded !== null)
  const others =
    besides?.some((d) => unreadKinds.has(d.kind)) || Object.keys(ancillary?.services ?? {}).some((s) => unread.has(s))
  return ancillary === undefined || untold || !besides || others ? undefined : null
}

/** Which channels of line 21 and services of the CEA-708 captions of a file say something: `CC1`, `S1`. */
export const captions: Measure = {
  ...shared,
  name: 'captions',
  label: 'Captions say something',
  counts: true,
  read(evidence) {
    const facts = factsIn(evidence)
    if (facts === undefined) return null
    if (!facts) return said([], 'there are no captions')
    const list = Object.entries(facts.letters).map(([name, n]) => `${name} (${plural(n, 'letter')})`)
    return said(Object.keys(facts.letters), list.length ? listed(list) : 'there are captions, and they say nothing')
  },
}

/**
 * Whether every frame has its packet of CEA-708 captions and each is as it should be (SMPTE ST 334-2, CTA-708):
 * `whole`, `faulty`, `empty` where they say nothing at all, `none` where there are none.
 */
export const captionPackets: Measure = {
  ...shared,
  name: 'caption-packets',
  label: 'Caption packets',
  read(evidence) {
    const facts = factsIn(evidence)
    if (facts === undefined) return null
    if (!facts) return said('none', 'none')
    const { faults } = facts
    const { file } = evidence
    const place = (at: Frames) => (file ? `at ${formatTimecode(file.start + at, file)}` : `in frame ${at}`)
    const empty = Object.keys(facts.letters).length === 0
    const list = faults.map((f) => `${captionFaults[f.fault]} in ${plural(f.frames, 'frame')}, first ${place(f.at)}`)
    if (empty) list.unshift('they say nothing')
    return said(faults.length ? 'faulty' : empty ? 'empty' : 'whole', list.join('; ') || 'whole')
  },
}
