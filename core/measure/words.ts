import { parseRate, rateText } from '../time/rate'
import type { Measure } from './measure'

// How rules write values, and how those are said to people.

/** Expectations of values that have other words for people. */
export const namedWords =
  (label: (value: string) => string): NonNullable<Measure['words']> =>
  (e) =>
    'equals' in e ? label(String(e.equals)) : 'oneOf' in e ? e.oneOf.map((v) => label(String(v))).join(' or ') : null

/** A rate that is expected, `25`, 25 or `29.97`, as the fraction it stands for. */
export function asFraction(expected: string | number | boolean): string | number | boolean {
  const rate = parseRate(String(expected))
  return rate ? rateText(rate) : expected
}

/** As {@link namedWords}, of values that rules may write in those words as well. */
export const inWords = (
  names: () => readonly string[],
  label: (value: string) => string,
): Pick<Measure, 'words' | 'means'> => ({
  words: namedWords(label),
  means(expected) {
    const word = String(expected).toLowerCase()
    return names().find((n) => [n, label(n)].some((w) => w.toLowerCase() === word)) ?? expected
  },
})

/** As {@link inWords}, by a table of all values. */
export const inWordsOf = (words: Readonly<Record<string, string>>) =>
  inWords(
    () => Object.keys(words),
    (value) => words[value] ?? value,
  )
