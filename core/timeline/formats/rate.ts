import type { Problem } from '../../problem'
import { listed } from '../../text'
import { makeRate, rateLabel, type Rate } from '../../time/rate'

const [r25, r2997, r30, r50, r5994, r60] = [
  makeRate(25),
  makeRate(30000, 1001),
  makeRate(30),
  makeRate(50),
  makeRate(60000, 1001),
  makeRate(60),
] as const

/** The code of the problem that a list does not tell its rate: whoever links its media may know better. */
export const rateUnknown = 'list.rate-unknown'

/**
 * The rate of a list by the labels in its lines: dropped ones are 30000/1001 or 60000/1001, frame numbers up to 24 are
 * read at 25. Higher numbers fit several rates: the first is used, and the problem says so, unless someone knows it.
 */
export function rateOfLabels(
  texts: readonly string[],
  saysDrop: boolean,
  fileName: string,
): { rate: Rate; problem: Problem | null } {
  let dropped = saysDrop
  let highest = 0
  for (const text of texts)
    for (const [, mark, frames] of text.matchAll(/\b\d\d?[:;.]\d\d[:;.]\d\d([:;.])(\d\d\d?)\b/g)) {
      dropped ||= mark === ';'
      highest = Math.max(highest, Number(frames))
    }
  if (dropped) return { rate: highest >= 30 ? r5994 : r2997, problem: null }
  if (highest < 25) return { rate: r25, problem: null }
  const fitting = highest < 30 ? [r2997, r30] : highest < 50 ? [r50, r5994, r60] : [r5994, r60]
  return {
    rate: fitting[0]!,
    problem: {
      code: rateUnknown,
      message: `The list does not say its rate; its frame numbers go up to ${highest}.`,
      where: fileName,
      fix: `Say it: ${listed(fitting.map(rateLabel), 'or')} (on the command line with --rate).`,
    },
  }
}
