import { fail } from '../problem'
import { stillFormats } from '../stills/registry'
import { parseRate, rateLabel, type Rate } from '../time/rate'

/**
 * Several files that are one piece of media, under one name: a run of numbered stills (`fog_[0001-0120].dpx`, or
 * `fog_[0001-0120@24].dpx` when a person has said how fast it runs), or mono sound files that make up one set of
 * channels (`mix_{L,R}.wav`).
 */
const setName = /^(.*)\{([^{}]+)\}(\.[^./]+)$/
const stillEndings = stillFormats.flatMap((f) => f.extensions.map((e) => e.slice(1))).join('|')
const runName = new RegExp(`^(.*)\\[(\\d{1,9})-(\\d{1,9})(?:@([\\d.]{1,8}))?\\](\\.(?:${stillEndings}))$`, 'i')
const stillNames = new RegExp(`^(.*?)(\\d{2,9})(\\.(?:${stillEndings}))$`, 'i')
const channelNames = /^(.+?[._ -])(L|R|C|LFE|Ls|Rs|A?[1-9]|ch[1-9]|A?1[0-6])(\.wav)$/i
const channelOrder = ['l', 'r', 'c', 'lfe', 'ls', 'rs']

const lastPart = (name: string) => name.split(/[/\\]/).at(-1)!

/** Whether a name stands for a run of numbered stills: `fog_[0001-0120].dpx`. */
export const isRun = (name: string) => runName.test(name)

/** The files behind a name, in order; null for a plain file. */
export function filesOf(name: string): string[] | null {
  const run = runName.exec(name)
  if (run) {
    const [, head, from, to, , tail] = run as unknown as [string, string, string, string, string, string]
    const count = Number(to) - Number(from) + 1
    if (count < 1 || count > 2_000_000) fail('stills.range', `“${lastPart(name)}” is no run of numbers.`, name)
    return Array.from(
      { length: count },
      (_, i) => `${head}${String(Number(from) + i).padStart(from.length, '0')}${tail}`,
    )
  }
  const set = setName.exec(name)
  if (!set) return null
  // parts of one name, never paths: these would lead past the gate that the name went through
  if (/[/\\]|^\.\.?$/.test(set[2]!) || set[2]!.includes('\0'))
    fail('set.names', `“${lastPart(name)}” is no set of files of one folder.`, name, 'Choose the files again.')
  return set[2]!.split(',').map((part) => `${set[1]!}${part}${set[3]!}`)
}

/** The rate a person has given a run of stills; null when none was. */
export function rateOfRun(name: string): Rate | null {
  return parseRate(runName.exec(name)?.[4] ?? '')
}

/** The name of a run of stills at another rate. */
export function runAtRate(name: string, rate: Rate): string {
  return name.replace(
    runName,
    (_, head: string, from: string, to: string, _rate: string | undefined, tail: string) =>
      `${head}[${from}-${to}@${rateLabel(rate)}]${tail}`,
  )
}

/** The first number of a run of stills. */
export function firstNumber(name: string): number {
  return Number(runName.exec(name)?.[2] ?? 0)
}

/** The runs and sets among the files of a folder, by their common names. */
export function groupFiles(names: readonly string[]): string[] {
  const runs = new Map<string, { head: string; tail: string; numbers: string[] }>()
  const sets = new Map<string, { head: string; tail: string; parts: string[] }>()
  for (const name of names) {
    const still = stillNames.exec(name)
    if (still) {
      const key = `${still[1]!}\0${still[2]!.length}\0${still[3]!}`
      const run = runs.get(key) ?? runs.set(key, { head: still[1]!, tail: still[3]!, numbers: [] }).get(key)!
      run.numbers.push(still[2]!)
    }
    const channel = channelNames.exec(name)
    if (channel) {
      const key = `${channel[1]!}\0${channel[3]!}`
      const set = sets.get(key) ?? sets.set(key, { head: channel[1]!, tail: channel[3]!, parts: [] }).get(key)!
      set.parts.push(channel[2]!)
    }
  }
  const out: string[] = []
  for (const { head, tail, numbers } of runs.values()) {
    numbers.sort((a, b) => Number(a) - Number(b))
    // a number left out ends a run
    for (let i = 0; i < numbers.length;) {
      let k = i
      while (k + 1 < numbers.length && Number(numbers[k + 1]) === Number(numbers[k]) + 1) k++
      if (k > i) out.push(`${head}[${numbers[i]!}-${numbers[k]!}]${tail}`)
      i = k + 1
    }
  }
  const place = (p: string) =>
    channelOrder.includes(p.toLowerCase())
      ? channelOrder.indexOf(p.toLowerCase())
      : 100 + Number(/\d+/.exec(p)?.[0] ?? 0)
  for (const { head, tail, parts } of sets.values()) {
    const named = parts.every((p) => channelOrder.includes(p.toLowerCase()))
    const numbered = parts.every((p) => /\d$/.test(p))
    if (parts.length > 1 && (named || numbered))
      out.push(`${head}{${parts.sort((a, b) => place(a) - place(b)).join(',')}}${tail}`)
  }
  return out
}

/** The name of a run of `count` stills, numbered from `first` on in no fewer than so many digits. */
export function runNamed(head: string, first: number, count: number, digits: number, tail: string): string {
  const padded = (n: number) => String(n).padStart(digits, '0')
  return `${head}[${padded(first)}-${padded(first + count - 1)}]${tail}`
}

/** The first and the last file of a run of stills; none of another name. */
export function endsOf(name: string): string[] {
  const [, head, from, to, , tail] = runName.exec(name) ?? []
  return head === undefined ? [] : [`${head}${from!}${tail!}`, `${head}${to!}${tail!}`]
}

/** What a delivered name takes on a disk: its file; of a run the folder that is its own. */
export function entryOf(name: string): string {
  return isRun(name) ? name.slice(0, Math.max(0, name.lastIndexOf('/'))) : name
}
