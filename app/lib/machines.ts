import type { MachineInfo } from '../../contract/machines'
import { listed } from './text'

/** What keeps a machine that takes part from doing every step, in words. */
export function gapsOf({ unseen, reads, lacks }: Pick<MachineInfo, 'unseen' | 'reads' | 'lacks'>): string[] {
  const codecs = [...new Set(lacks.map((a) => a.slice(a.indexOf(':') + 1)))]
  return [
    ...(unseen.length ? [`does not see ${listed(unseen)}`] : []),
    ...(reads.length ? [`can only read ${listed(reads)}`] : []),
    ...(codecs.length ? [`has no ${listed(codecs)}`] : []),
  ]
}
