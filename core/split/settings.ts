import { fail } from '../problem'
import { parseLength } from '../time/timecode'
import type { Frames } from '../time/rate'
import { timeBase, type Timeline } from '../timeline/model'

interface Asked {
  readonly label: string
  /** What to type, in words. */
  readonly hint?: string
}
/** A length, in frames of the timeline. */
interface LengthSetting extends Asked {
  readonly kind: 'length'
  readonly initial: (timeline: Timeline) => Frames
  readonly least: Frames
}
/** A whole number. */
interface CountSetting extends Asked {
  readonly kind: 'count'
  readonly initial: number
  readonly least: number
}
/** Text, of one line or of many, or a pattern of names (see naming). */
interface TextSetting extends Asked {
  readonly kind: 'text' | 'lines' | 'pattern'
  readonly initial: string
}
/** One of a few. */
interface ChoiceSetting<C extends string = string> extends Asked {
  readonly kind: 'choice'
  readonly choices: readonly (readonly [value: C, text: string])[]
  readonly initial: C
}

export type SplitSetting = LengthSetting | CountSetting | TextSetting | ChoiceSetting
export type Settings = Readonly<Record<string, SplitSetting>>

/** What settings hold: numbers of frames and counts, text, or one of the choices. */
export type Values<S extends Settings> = {
  readonly [K in keyof S]: S[K] extends LengthSetting | CountSetting
    ? number
    : S[K] extends ChoiceSetting<infer C>
      ? C
      : string
}

/** Frames in `seconds` of a timeline, as its labels count them: what lengths are at first. */
export const secondsOf = (seconds: number) => (t: Timeline) =>
  parseLength(`${seconds}s`, timeBase(t)) ?? fail('split.length', `${seconds} s is no length.`)

/** One of a few, its values known to the compiler. */
export const choice = <C extends string>(
  label: string,
  choices: readonly (readonly [value: C, text: string])[],
): ChoiceSetting<C> => ({ kind: 'choice', label, choices, initial: choices[0]![0] })

/** Every setting with its value: what is set of it, or what it is at first. */
export function settled<S extends Settings>(
  settings: S,
  values: Readonly<Record<string, number | string>>,
  timeline: Timeline,
): Values<S> {
  const of = (key: string, s: SplitSetting) =>
    values[key] ?? (typeof s.initial === 'function' ? s.initial(timeline) : s.initial)
  return Object.fromEntries(Object.entries(settings).map(([key, s]) => [key, of(key, s)])) as Values<S>
}

/** What typed text sets; a problem that says what to type when it cannot be read. */
export function readValue(s: SplitSetting, text: string, timeline: Timeline): number | string {
  switch (s.kind) {
    case 'text':
    case 'lines':
    case 'pattern':
      return text
    case 'choice':
      return s.choices.some(([value]) => value === text)
        ? text
        : fail(
            'split.setting',
            `“${text}” is none of the choices.`,
            s.label,
            `Choose one of ${s.choices.map(([value]) => value).join(', ')}.`,
          )
    case 'count':
    case 'length': {
      const n = s.kind === 'count' ? Number(text) : parseLength(text, timeBase(timeline))
      if (n === null || !Number.isInteger(n)) {
        const what = s.kind === 'count' ? 'a whole number' : '25, 10s, 2min or h:mm:ss:ff'
        fail('split.setting', `“${text}” cannot be read.`, s.label, `Type ${what}.`)
      }
      if (n < s.least) fail('split.setting', `${text} is too little.`, s.label, `It is at least ${s.least}.`)
      return n
    }
  }
}
