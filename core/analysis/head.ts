import { common, type FrameRange } from '../time/range'
import { nominalRate, type Frames, type Rate } from '../time/rate'

/** What the head of a timeline is judged by. */
export interface HeadFacts {
  readonly rate: Rate
  readonly length: Frames
  readonly black: readonly FrameRange[]
  readonly freeze: readonly FrameRange[]
  readonly silence: readonly FrameRange[]
  /** Momentary loudness of each tenth of a second (LUFS), null for silence; null where there is no sound. */
  readonly momentary: readonly (number | null)[] | null
}

/** Where line-up was found at the head, and by what; and where the programme begins after it. */
export interface FoundHead {
  readonly lineUp: FrameRange
  readonly by: readonly ('still picture' | 'tone')[]
  /** A clock or slate before the programme; null when there is none. */
  readonly clock: FrameRange | null
  /** The black that the programme begins from; absent where an earlier edition found it. */
  readonly black?: FrameRange
  readonly programme: Frames
}

/**
 * Line-up of a stretch that is to be measured without it: only what has a tone is taken for it, since a programme may
 * open on a still picture; and what ends with the stretch may go on behind it.
 */
export function measuredHead(facts: HeadFacts): FoundHead | null {
  const found = findHead(facts)
  return found?.by.includes('tone') && found.programme < facts.length ? found : null
}

/** Seconds that a tone in front of sound alone lasts at least: no picture says that it is line-up. */
const shortestTone = 5

/** The same of sound without pictures: a tone, and silence between it and the programme. */
export function soundHead(facts: Omit<HeadFacts, 'black' | 'freeze'>): FoundHead | null {
  const found = measuredHead({ ...facts, black: facts.silence, freeze: [] })
  const { in: from, out: to } = found?.lineUp ?? { in: 0, out: 0 }
  return to - from >= shortestTone * nominalRate(facts.rate) ? found : null
}

/** Line-up that a region begins with, in its own frames. */
export interface MeasuredHead extends FoundHead {
  /** The peak of its tone in each channel of the source, dBFS; null where there is none. */
  readonly tones: readonly (number | null)[]
}

/** Line-up as it stands where so many of its frames are one. */
export function headPer<T extends FoundHead>(head: T, perFrame: number): T {
  const per = (n: Frames) => Math.floor(n / perFrame)
  const range = (r: FrameRange): FrameRange => ({ in: per(r.in), out: per(r.out) })
  return {
    ...head,
    ...{ lineUp: range(head.lineUp), clock: head.clock && range(head.clock), programme: per(head.programme) },
    ...(head.black ? { black: range(head.black) } : {}),
  }
}

/** Seconds from the first frame in which line-up is looked for. */
export const headReach = 180

/** Seconds: line-up begins this near to the head, lasts this long at least; a clock is shorter than this. */
const head = { near: 10, shortest: 2, clock: 60 }

/** Stretches of steady loudness: tone. A programme's is never within half a LU for two seconds and more. */
export function tones(momentary: readonly (number | null)[], rate: Rate): FrameRange[] {
  const tenth = rate.num / rate.den / 10
  const out: FrameRange[] = []
  let from = 0
  const close = (to: number) => {
    if (to - from >= head.shortest * 10)
      // a window of 400 ms ends with each tenth: its first full ones begin three tenths before
      out.push({ in: Math.round(Math.max(0, from - 3) * tenth), out: Math.round(to * tenth) })
  }
  for (let i = 0; i <= momentary.length; i++) {
    const level = momentary[i] ?? null
    const steady =
      i > from &&
      level !== null &&
      momentary[from] !== null &&
      Math.abs(level - momentary[from]!) <= 0.25 &&
      level > -50
    if (i === from || steady) continue
    close(i)
    from = i
  }
  return out
}

/** How much of a range others cover, 0 … 1. */
const share = (r: FrameRange, others: readonly FrameRange[]) =>
  common([r], others).reduce((n, c) => n + c.out - c.in, 0) / Math.max(1, r.out - r.in)

/**
 * Finds line-up, clock and the programme's first frame. Line-up is a still picture or a tone near the head; after it,
 * maybe over black, comes what is mostly silent and no longer than a minute, ended by black that is silent: the clock.
 * The programme begins where that black ends. Null where nothing at the head is line-up, or no black follows it.
 */
export function findHead({ rate, black, freeze, silence, momentary }: HeadFacts): FoundHead | null {
  const second = nominalRate(rate)
  const long = (r: FrameRange) => r.out - r.in >= head.shortest * second
  const stills = freeze.filter(long)
  const steady = momentary ? tones(momentary, rate) : []
  // the first of them is near the head; what follows within a second belongs to it
  const found = [...stills, ...steady].sort((x, y) => x.in - y.in)
  const [first] = found
  if (!first || first.in > head.near * second) return null
  const end = found.reduce((to, r) => (r.in <= to + second ? Math.max(to, r.out) : to), first.out)
  const lineUp = { in: first.in, out: end }
  const within = (list: readonly FrameRange[]) => list.some((r) => r.in < end)
  const by = [...(within(stills) ? (['still picture'] as const) : []), ...(within(steady) ? (['tone'] as const) : [])]
  const quiet = momentary ? silence : [{ in: 0, out: Number.MAX_SAFE_INTEGER }]
  // black of a second or more, silent as well, each within a minute of what came before it
  const pauses = black.filter((b) => b.out - b.in >= second && b.out > end && share(b, quiet) >= 0.8)
  let clock: FrameRange | null = null
  let last: FrameRange | null = null
  let from = end
  for (const b of pauses) {
    const between = { in: from, out: Math.max(from, b.in) }
    if (between.out - between.in > head.clock * second) break
    if (between.out - between.in > second / 2) {
      // what is heard is programme: the black after it is a break, not its beginning. The end of a tone is measured
      // to a tenth or two only
      if (share({ in: Math.min(between.in + second / 2, between.out - 1), out: between.out }, quiet) < 0.7) break
      clock = between
    }
    last = { in: Math.max(b.in, from), out: b.out }
    from = b.out
  }
  return last && { lineUp, by, clock, black: last, programme: last.out }
}
