import type { ArgsDef, CommandDef } from 'citty'
import { fail } from '../core/problem'
import { nearest } from './near'

/** Options after which further folders may stand. */
const ofMany = new Set(['--media'])

/**
 * Checks the words of a call against what its command takes: an option that is not known is refused, and the one that
 * was probably meant is named; so is a word too many, and an option without its value.
 */
export function checkWords(name: string, command: CommandDef<ArgsDef>, words: readonly string[]): void {
  const args = Object.entries((command.args ?? {}) as ArgsDef)
  const options = new Map(args.filter(([, a]) => a.type !== 'positional').map(([key, a]) => [`--${key}`, a]))
  let places = args.filter(([, a]) => a.type === 'positional').length
  for (let i = 0; i < words.length; i++) {
    const [word, value] = words[i]!.split(/=(.*)/s) as [string, string | undefined]
    if (!word.startsWith('-') || word === '-') {
      if (--places < 0)
        fail('usage', `“${word}” is one word too many for ${name}.`, undefined, `See ./velvet ${name} --help.`)
      continue
    }
    const option = options.get(word)
    if (!option) {
      const near = nearest(word, [...options.keys()])
      fail(
        'usage',
        `“${word}” is no option of ${name}.${near ? ` Did you mean ${near}?` : ''}`,
        undefined,
        `See ./velvet ${name} --help.`,
      )
    }
    if (option.type === 'boolean') continue
    if (value === undefined && (words[i + 1] === undefined || words[i + 1]!.startsWith('--')))
      fail('usage', `${word} wants a value.`, undefined, `See ./velvet ${name} --help.`)
    if (value === undefined) i++
    while (ofMany.has(word) && words[i + 1] !== undefined && !words[i + 1]!.startsWith('-')) i++
  }
}
