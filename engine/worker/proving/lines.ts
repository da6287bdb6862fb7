import { unitFacts, type UnitFacts } from '../../../core/codec/unitfacts'
import { recipeKind } from '../../../core/recipe/registry'
import { placed, sectionAt } from '../../../core/lineup/lineup'
import { isTimeline } from '../../../core/lineup/section'
import { ancillaryMeter, type AncillaryFacts } from '../../../core/media/ancillary'
import type { DataTrack, Media } from '../../../core/media/media'
import { fail, toProblem, type Problem } from '../../../core/problem'
import type { FrameRange } from '../../../core/time/range'
import { fileBase } from '../../../core/recipe/output'
import type { Frames, Rate } from '../../../core/time/rate'
import { placeOfFrame } from '../making/coded'
import type { DeliverableStep } from '../context'

const isAncillary = ({ info }: DataTrack) => info.kind === 'ancillary'

/** What the ancillary packets of a range carry, null of a file without any; and the first element that is damaged. */
export async function ancillaryIn(
  all: readonly DataTrack[],
  range: FrameRange,
  rate: Rate,
): Promise<{ readonly facts: AncillaryFacts | null; readonly damage: readonly Problem[] }> {
  const tracks = all.filter(isAncillary)
  if (tracks.length === 0) return { facts: null, damage: [] }
  const meter = ancillaryMeter(rate)
  const damage: Problem[] = []
  const packets = async (t: DataTrack, n: Frames) => {
    if (n >= t.frames) return []
    try {
      return t.packets(await t.read(n))
    } catch (e) {
      if (damage.length === 0) damage.push({ ...toProblem(e), damage: true })
      return []
    }
  }
  for (let n = range.in; n < range.out; n++) meter.feed((await Promise.all(tracks.map((t) => packets(t, n)))).flat(), n)
  return { facts: meter.result(), damage }
}

/** What coded pictures of a file say of themselves, where they were copied: those made here are known. */
export async function copiedUnits({ item }: DeliverableStep, media: Media): Promise<UnitFacts | null> {
  const [track] = media.video
  if (!track || !recipeKind(item.recipe).copies) return null
  return unitFacts(media.source, track, { in: 0, out: track.info.frames })
}

const same = (a: Uint8Array, b: Uint8Array) => a.length === b.length && a.every((v, i) => v === b[i])

/**
 * Reads the lines of the blanking of every frame back: those of the timeline are the source's, and others have none.
 * Gives what its ancillary packets carry; null of a file without any.
 */
export async function checkLines(step: DeliverableStep, { data: tracks = [] }: Media): Promise<AncillaryFacts | null> {
  const { output, target } = step.item
  const asked = output.data ?? []
  const again = 'Run it again; if it happens again, report it with the run sheet.'
  if (tracks.map((t) => t.info.kind).join() !== asked.join())
    fail('prove.lines', 'The file has other ancillary data than was asked for.', target.path, again)
  const sections = placed(output)
  const meter = ancillaryMeter(fileBase(step.item).rate)
  for (let n = 0; n < (asked.length ? output.frames : 0); n++) {
    const own = await step.source.linesOf(n)
    const there = await Promise.all(tracks.map((t) => t.read(n)))
    if (!there.every((lines, i) => (own[i] ? same(own[i], lines) : lines.every((v) => v === 0))))
      fail('prove.lines', 'The ancillary data of a frame is not that of the source.', placeOfFrame(step, n), again)
    if (isTimeline(sectionAt(sections, n)))
      meter.feed(
        tracks.flatMap((t, i) => (isAncillary(t) ? t.packets(there[i]!) : [])),
        n,
      )
    if (n % 100 === 0) step.progress(0)
  }
  return asked.includes('ancillary') ? meter.result() : null
}
