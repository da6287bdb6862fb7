import { isKnownCodec, pictureCodec } from '../codec/registry'
import { codecsOf, type Output } from '../recipe/output'
import { programmeFrames } from '../lineup/lineup'
import type { Recipe, Step } from '../recipe/recipe'
import { recipeKind } from '../recipe/registry'
import type { MediaInfo } from '../media/media'
import { fail } from '../problem'
import { tracksTaken } from '../sound/tracks'
import { plural } from '../text'
import { workFrames } from '../time/samples'
import { paceOf, type Paces } from './paces'
import type { FrameRange } from '../time/range'
import { countsSamples, framesToSeconds, unitOf, type Frames, type Rate, type Seconds } from '../time/rate'

/** What a kind of step does, in words, and how fast. */
export interface StepKind {
  readonly kind: string
  /** In a dry run: `make 12 frames of pictures`. */
  readonly text: (length: Frames, unit: 'frame' | 'sample') => string
  /** While it is under way: `making pictures`. */
  readonly doing: string
  /**
   * Frames a second a worker makes, at 1920×1080 where pictures count, until this machine has shown its own: as
   * measured with two workers on two cores.
   */
  readonly speed: number
  /** Whether it takes longer for larger pictures. */
  readonly scales: boolean
  /** Whether it reads the timeline's pictures from first to last, so that others can have them at the same time. */
  readonly pictures?: true
  /** Whether its range is one of the file, not of the timeline. */
  readonly ofFile?: true
  /** Whether it makes nothing of the file, and names it. */
  readonly proof?: true
  /** Whether others join what it makes: a picture at the joint is looked at. */
  readonly joined?: true
  /** The kind of step in its place where pictures are taken, coded as they are, from an earlier file. */
  readonly taking?: string
  /** Whether it is done as well where what it needs of another deliverable was not: it looks whether that is there. */
  readonly looks?: true
  /** Which of a picture codec's own speeds is its, where that has any. */
  readonly codecSpeed?: 'make' | 'prove'
}

/** Seconds that any step takes besides, to be handed out and to open what it reads. */
const handling: Seconds = 0.1

const pictures = (n: Frames) => `make ${plural(n, 'frame')} of pictures`
const taken = (n: Frames) => `take ${plural(n, 'frame')} of pictures from the earlier file`

const spread = {
  text: () => 'read the file back, decode some of its pictures, measure and judge it, make checksums',
  doing: 'proving',
  ...({ speed: 120, scales: true, ofFile: true, proof: true } as const),
}

/** Kinds of steps of a deliverable: a new one is a line here, and its worker's side. */
export const stepKinds: StepKind[] = [
  {
    kind: 'rewrap',
    text: (n, unit) => `copy the essence of ${plural(n, unit)}`,
    doing: 'copying essence',
    speed: 500,
    scales: true,
  },
  {
    kind: 'line-up',
    text: (n, unit) => `make ${plural(n, unit)} of line-up or break`,
    doing: 'making line-up',
    speed: 300,
    scales: true,
    ofFile: true,
  },
  {
    kind: 'encode-in-place',
    text: pictures,
    doing: 'making pictures',
    speed: 35,
    scales: true,
    pictures: true,
    taking: 'take-in-place',
    codecSpeed: 'make',
  },
  {
    kind: 'encode-segment',
    text: pictures,
    doing: 'making pictures',
    speed: 18,
    scales: true,
    pictures: true,
    joined: true,
    taking: 'take-segment',
    codecSpeed: 'make',
  },
  {
    kind: 'check-earlier',
    text: () => 'make sure that the earlier file is still what was proven',
    doing: 'checking the earlier file',
    speed: 150,
    scales: true,
    ofFile: true,
    looks: true,
  },
  { kind: 'take-in-place', text: taken, doing: 'taking pictures', speed: 120, scales: true },
  { kind: 'take-segment', text: taken, doing: 'taking pictures', speed: 80, scales: true, joined: true },
  {
    kind: 'write-stills',
    text: (n) => `write ${plural(n, 'still')}`,
    doing: 'writing stills',
    speed: 6,
    scales: true,
    pictures: true,
    codecSpeed: 'make',
  },
  {
    kind: 'copy-stills',
    text: (n) => `copy ${plural(n, 'still')}`,
    doing: 'copying stills',
    speed: 15,
    scales: true,
  },
  { kind: 'encode-sound', text: () => 'encode the sound', doing: 'encoding sound', speed: 250, scales: false },
  { kind: 'write-sound', text: () => 'write the sound', doing: 'writing sound', speed: 400, scales: false },
  { kind: 'join', text: () => 'join pictures and sound', doing: 'joining', speed: 3000, scales: false },
  {
    kind: 'prove',
    text: () => 'read the file back, decode all of it, measure and judge it, make checksums',
    doing: 'proving',
    speed: 20,
    scales: true,
    ofFile: true,
    proof: true,
    taking: 'prove-taken',
    codecSpeed: 'prove',
  },
  { kind: 'prove-spread', ...spread },
  { kind: 'prove-taken', ...spread },
]

export function stepKind(kind: string): StepKind {
  return (
    stepKinds.find((k) => k.kind === kind) ??
    fail('step.unknown', `Steps of kind “${kind}” are not known here.`, kind, 'Run it with the edition that made it.')
  )
}

/** The steps that make and prove one deliverable. */
export function planSteps(request: {
  readonly recipe: Recipe
  readonly output: Output
  readonly source: MediaInfo
  readonly range: FrameRange
  readonly rate: Rate
  /** Channels of the source that it takes (0-based; −1 silence). */
  readonly route: readonly number[]
  /** Seconds from one picture that the proof decodes to the next; 0 is every picture. */
  readonly spread: number
}): Step[] {
  const { recipe, output, source, range, rate, route, spread } = request
  // what nobody can decode is asked of no worker: a step that none may take would never end
  const decode = (codecs: readonly string[]) => [...new Set(codecs)].filter(isKnownCodec).map((c) => `decode:${c}`)
  const reading = {
    pictures: source.video[0] ? decode(codecsOf(source.video[0])) : [],
    sound: decode(tracksTaken(source.audio, route).flatMap((t) => t.codecs ?? [t.codec])),
  }
  const steps = recipeKind(recipe).steps({ settings: recipe, output, range, rate, reading })
  const needed = new Set(steps.flatMap((s) => s.needs))
  const last = steps.filter((s) => !needed.has(s.key)).map((s) => s.key)
  const kind = spread ? 'prove-spread' : 'prove'
  // what is made in front of a programme costs next to nothing, and is not to spoil what is known of the pace
  const whole = { in: 0, out: programmeFrames(output) }
  const all: Step[] = [...steps, { key: 'prove', kind, needs: last, range: whole, abilities: [] }]
  return all.map((s) => ({ ...s, pace: paceOf(s.kind, source, output) }))
}

/** How many steps that read the same pictures are taken together at most: each has an encoder of its own. */
export const mostTogether = 4

/** What steps share that read the same pictures of a timeline; null of steps that read none. */
export function sharedBy(timeline: string, { kind, range }: Pick<Step, 'kind' | 'range'>): string | null {
  return stepKind(kind).pictures ? `${timeline} ${range.in}–${range.out}` : null
}

/** A step in words, for a dry run. */
export function stepText(s: Pick<Step, 'kind' | 'range'>, rate: Rate): string {
  return stepKind(s.kind).text(s.range.out - s.range.in, unitOf(rate))
}

/**
 * Seconds a deliverable's steps will take on one worker: as fast as such steps have gone here, else as their kind goes
 * as a rule. Of sound alone, a twenty-fifth of a second counts as a frame.
 */
export function forecastSeconds(steps: readonly Step[], output: Output, rate: Rate, paces: Paces): Seconds {
  const unit = countsSamples(rate) ? framesToSeconds(25, rate) : 1
  const pixels = output.video ? output.video.width * output.video.height : 0
  const scale = Math.max(0.05, pixels / (1920 * 1080))
  const slower = output.video ? pictureCodec(output.video.codec)?.encode?.speed : undefined
  let seconds = 0
  for (const s of steps) {
    const { scales, codecSpeed, ...kind } = stepKind(s.kind)
    const speed = (codecSpeed && slower?.[codecSpeed]) ?? kind.speed
    const known = s.pace === undefined ? undefined : paces.get(s.pace)
    if (known !== undefined) {
      seconds += workFrames(s.range.out - s.range.in, rate) / known
      continue
    }
    seconds += handling + ((s.range.out - s.range.in) * unit * (scales ? scale : 1)) / speed
  }
  return seconds
}
