import { containerOf } from '../../../core/container/registry'
import type { FrozenDeliverable } from '../../../core/deliverable/sheet'
import type { Media, MediaInfo } from '../../../core/media/media'
import { describedMedia, describedOutput } from '../../../core/measure/described'
import type { Described, Measure } from '../../../core/measure/measure'
import { measureOf } from '../../../core/measure/registry'
import { fail } from '../../../core/problem'
import { fileBase, type Output } from '../../../core/recipe/output'
import { recipeKind } from '../../../core/recipe/registry'
import { filledIn } from '../../../core/split/papers'
import { plural } from '../../../core/text'
import { countsSamples } from '../../../core/time/rate'
import { mulDivRound } from '../../../core/time/samples'
import type { TimeBase } from '../../../core/time/timecode'

// Whether a finished file says that it is what was asked for, whatever its recipient's rules leave open.

const again = 'Run it again; if it happens again, report it with the run sheet.'

/** What settings ask of a file, and its timeline; what else copies are follows from their source. */
const ofCopies = ['container', 'start-timecode', 'drop-frame'].map(measureOf)
const ofMade = [
  ...ofCopies,
  ...['frame-rate', 'codec', 'raster', 'pixel-aspect', 'scan', 'chroma', 'bit-depth'].map(measureOf),
  ...['sound-codec', 'sample-rate', 'sound-depth', 'channels'].map(measureOf),
]

/** Whether samples of a file are too coarse for all places of a timeline that is counted in samples to be there. */
const isCoarse = ({ audio }: Output, { rate }: TimeBase): boolean =>
  countsSamples(rate) && audio !== null && audio.sampleRate < rate.num / rate.den

/** What a measure reads of a file that is not what was asked, in words; null where it is, or the file cannot tell. */
function otherThanAsked(m: Measure, asked: Described, there: Described): string | null {
  const [own, found] = [m.read({ described: asked }), m.read({ described: there })]
  if (own === null || own.value === null || found?.value === null || found?.value === own.value) return null
  // stills are only asked for what their format says
  if (found === null && there.container !== 'stills' && !containerOf(there.container).start) return null
  return `${m.label.toLowerCase()} ${found?.text ?? 'not said'}, asked for was ${own.text}`
}

/** What the channels of a file are said to be, where that is not what they are. */
const otherOrder = (own: string | null | undefined, said: string | null | undefined): string[] =>
  own && said && own !== said ? [`channels said to be ${said}, asked for was ${own}`] : []

/** Whether a file is described as its settings asked. */
export function checkDescription(item: FrozenDeliverable, info: MediaInfo): void {
  const { output, recipe, target } = item
  const base = fileBase(item)
  const [asked, there] = [describedOutput(output, base), describedMedia(info, base)]
  const parts = (['video', 'audio'] as const).filter((part) => !asked[part] !== !there[part])
  const measures = (recipeKind(recipe).copies ? ofCopies : ofMade).filter(
    (m) => m.name !== 'start-timecode' || !isCoarse(output, base),
  )
  const other = [
    ...parts.map((p) => `${there[p] ? 'it has' : 'it has no'} ${p === 'video' ? 'pictures' : 'sound'}`),
    ...measures.flatMap((m) => otherThanAsked(m, asked, there) ?? []),
    ...(recipeKind(recipe).copies ? [] : otherOrder(asked.audio?.layout, there.audio?.layout)),
  ]
  if (other.length > 0)
    fail('prove.kind', `The file is not what was asked for: ${other.join('; ')}.`, target.path, again)
}

/** Whether frames and chapters are as many, and where, as was asked. */
export function checkStructure(item: FrozenDeliverable, info: MediaInfo): void {
  const { output, target } = item
  const { rate } = fileBase(item)
  if (output.video && info.durationFrames !== output.frames)
    fail(
      'prove.frames',
      `The file has ${plural(info.durationFrames ?? 0, 'frame')}; ${output.frames} were asked for.`,
      target.path,
      again,
    )
  // stills have their chapters beside them only
  if (info.container === 'stills') return
  const { num, den } = rate
  const there = info.chapters.map((c) => mulDivRound(c.at, num, den * c.timescale))
  const asked = [...new Set(item.chapters.map((c) => c.at))]
  const most = isCoarse(output, fileBase(item)) ? Math.ceil(num / den / output.audio!.sampleRate) : 0
  const called = (name: string, i: number) => item.chapters.some((c) => c.at === asked[i] && c.name === name)
  const isThere = (n: number, i: number) => Math.abs(n - asked[i]!) <= most && called(info.chapters[i]!.name, i)
  if (there.length !== asked.length || !there.every(isThere))
    fail(
      'prove.chapters',
      `The file has ${plural(there.length, 'chapter')}, not the ${asked.length} asked for, by place and name.`,
      target.path,
      again,
    )
}

/** Whether a file is whole by its container's rules, and says the programme metadata that was typed. */
export async function checkContainer(item: FrozenDeliverable, { info, source }: Media): Promise<void> {
  const container = containerOf(item.output.container)
  const fault = await container.structureFault?.(source)
  if (fault) fail('prove.structure', `The file is damaged: ${fault}.`, item.target.path, 'Run it again.')
  if (!container.metadata) return
  const [asked, there] = [filledIn(item.region.metadata), info.metadata ?? {}]
  const other = [...new Set([...Object.keys(asked), ...Object.keys(there)])].filter((f) => asked[f] !== there[f])
  if (other.length > 0)
    fail('prove.metadata', `The file says other papers than were typed: ${other.join(', ')}.`, item.target.path, again)
}
