import type { DataTrack, Media } from '../../../core/media/media'
import type { Packet } from '../../../core/media/packet'
import { isTimecode } from '../../../core/media/ancillary'
import {
  packetTimecode,
  timecodeBase,
  timecodeMeter,
  type TimecodeBase,
  type TimecodeFacts,
} from '../../../core/media/timecodes'
import type { Frames } from '../../../core/time/rate'
import { canDropFrame, type TimeBase } from '../../../core/time/timecode'
import type { MediaFileOpened } from '../../storage/mediafile'

/** Every timecode of a file that can be followed, from its first frame to its last. */
export async function timecodesIn(
  { info, media, timecodes = media?.timecodes ?? [] }: Pick<MediaFileOpened, 'info' | 'media' | 'timecodes'>,
  base: TimeBase & { readonly start: Frames },
): Promise<TimecodeFacts[]> {
  const { timecode, durationFrames, video } = info
  if (!timecode || durationFrames === null || !video[0]) return []
  const { rate } = video[0]
  const follow = (binary: boolean, dropFrame = base.dropFrame) => timecodeBase(rate, { ...base, dropFrame }, binary)
  const range = { in: 0, out: durationFrames }
  const out: TimecodeFacts[] = []
  const { jumps } = timecode
  // of stills they were found by halving: each is gone through below
  if (jumps && media)
    out.push({ where: 'in the timecode track', frames: 1, breaks: jumps.length, at: jumps[0]?.at ?? null, other: null })
  for (const t of timecodes) {
    const ways = t.dropUnsaid && canDropFrame(rate) ? [base.dropFrame, !base.dropFrame] : [base.dropFrame]
    const meters = ways.map((dropped) => timecodeMeter(t.where, follow(t.binary, dropped)))
    for await (const labelled of t.walk(range)) meters.forEach((m) => m.feed(labelled))
    out.push(meters.map((m) => m.result()).reduce((best, way) => (way.breaks < best.breaks ? way : best)))
  }
  const packets = media ? await inPackets(media, follow(true)) : []
  return [...out, ...packets].filter((t) => t.frames > 0)
}

/** Those in ancillary packets, each kind by itself. */
async function inPackets({ data = [] }: Media, base: TimecodeBase): Promise<TimecodeFacts[]> {
  const meters = new Map<string, ReturnType<typeof timecodeMeter>>()
  for (const t of data.filter(({ info }) => info.kind === 'ancillary'))
    for (let frame = 0; frame < t.frames; frame++)
      for (const p of (await packetsOf(t, frame)).filter(isTimecode)) {
        const own = packetTimecode(p)
        const where = `in ancillary packets (${own?.kind ?? 'of no kind'})`
        let meter = meters.get(where)
        if (!meter) meters.set(where, (meter = timecodeMeter(where, base)))
        meter.feed({ frame, label: own?.label ?? null })
      }
  return [...meters.values()].map((m) => m.result())
}

/** Packets of a frame; none of an element that is damaged, which is said where the file's damage is. */
const packetsOf = async (t: DataTrack, frame: Frames): Promise<Packet[]> => {
  try {
    return t.packets(await t.read(frame))
  } catch {
    return []
  }
}
