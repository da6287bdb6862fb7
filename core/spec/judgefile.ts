import type { Readings } from '../measure/measure'
import { measureOf, measures } from '../measure/registry'
import { judge, type RuleResult } from './judge'
import { rulesForFile, type Spec } from './spec'
import type { Waiver } from './waiver'

/**
 * Every rule held against what was measured of a file from elsewhere, in the order of measures: whether it is whole
 * comes first.
 */
export function judgeFile(spec: Spec, readings: Readings, waivers: readonly Waiver[] = []): RuleResult[] {
  const place = (r: RuleResult) => measures.indexOf(measureOf(r.rule.measure))
  return judge(rulesForFile(spec), {}, {}, readings, waivers).sort((a, b) => place(a) - place(b))
}
