import type { DataTrack, Media } from '../../core/media/media'
import type { Packet } from '../../core/media/packet'
import { isTimecode } from '../../core/media/ancillary'
import {
  packetTimecode,
  timecodeBase,
  timecodeMeter,
  type TimecodeBase,
  type TimecodeFacts,
} from '../../core/media/timecodes'
import type { Frames } from '../../core/time/rate'
import type { TimeBase } from '../../core/time/timecode'

/** Every timecode of a file that can be followed, from its first frame to its last. */
export async function timecodesIn(media: Media, base: TimeBase & { readonly start: Frames }): Promise<TimecodeFacts[]> {
  const { timecode, durationFrames, video } = media.info
  if (!timecode || durationFrames === null || !video[0]) return []
  const follow = (binary: boolean) => timecodeBase(video[0]!.rate, base, binary)
  const range = { in: 0, out: durationFrames }
  const out: TimecodeFacts[] = []
  const { breaks } = timecode
  if (breaks)
    out.push({ where: 'in the timecode track', frames: 1, breaks: breaks.length, at: breaks[0] ?? null, other: null })
  for (const t of media.timecodes ?? []) {
    const meter = timecodeMeter(t.where, follow(t.binary))
    for await (const labelled of t.walk(range)) meter.feed(labelled)
    out.push(meter.result())
  }
  return [...out, ...(await inPackets(media, follow(true)))].filter((t) => t.frames > 0)
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
