import { parseRate } from '../time/rate'

/** A pixel aspect, `16:11`, as a number: how much wider than high a pixel is. 1 when it makes no sense. */
export function aspectValue(aspect: string): number {
  const r = parseRate(aspect.replace(':', '/'))
  return r ? r.num / r.den : 1
}

/** The two sides of a pixel aspect; 1 and 1 when it makes no sense. */
export function aspectParts(aspect: string): readonly [number, number] {
  const r = parseRate(aspect.replace(':', '/'))
  return r ? [r.num, r.den] : [1, 1]
}
