import { existsSync, statSync } from 'node:fs'
import { availableParallelism } from 'node:os'
import path from 'node:path'
import { filesOf } from '../core/files/fileset'
import { checksumKinds, type ChecksumName } from '../core/files/checksums'
import type { Scan } from '../core/media/media'
import { scanSchema } from '../core/media/scan'
import { fail } from '../core/problem'
import type { Overrides, Recipe } from '../core/recipe/recipe'
import { overridesSchema, recipeKind, shippedRecipes } from '../core/recipe/registry'
import { settingValue, type Setting } from '../core/recipe/settings'
import type { Waiver } from '../core/spec/waiver'
import { houseRules, type Spec } from '../core/spec/spec'
import { listed } from '../core/text'
import { soundTrackReadings, type SoundTracks } from '../core/timeline/model'
import { parseRate, type Rate } from '../core/time/rate'
import type { Root } from '../engine/storage/roots'

/** All values of an option that may be given several times. */
export function every(option: string): string[] {
  const out: string[] = []
  process.argv.forEach((a, i) => {
    if (a === option && process.argv[i + 1]) {
      out.push(process.argv[i + 1]!)
      // further folders may follow without repeating it
      for (
        let k = i + 2;
        process.argv[k] &&
        !process.argv[k]!.startsWith('-') &&
        existsSync(process.argv[k]!) &&
        statSync(process.argv[k]!).isDirectory();
        k++
      )
        out.push(process.argv[k]!)
    } else if (a.startsWith(`${option}=`)) out.push(a.slice(option.length + 1))
  })
  return out
}

/** `KEY=VALUE` values of an option. */
export function pairs(option: string): Record<string, string> {
  return Object.fromEntries(
    every(option).map((item) => {
      const m = /^([^=]+)=(.*)$/s.exec(item)
      return m
        ? [m[1]!.trim(), m[2]!.trim()]
        : fail('usage', `“${item}” is not KEY=VALUE.`, option, `Write it as ${option} 'key=value'.`)
    }),
  )
}

/** What is accepted by name, with reason and initials; names that are no rule of the spec or the house are refused. */
export function readWaivers(spec: Spec, initials: string | undefined): Waiver[] {
  const list = Object.entries(pairs('--waive'))
  if (list.length > 0 && !initials?.trim())
    fail('usage', '--waive wants to know who accepts it.', '--initials', 'Give your initials with --initials.')
  const rules = [...spec.rules, ...houseRules].map((r) => r.id)
  return list.map(([rule, reason]) => {
    if (!rules.includes(rule))
      fail('usage', `There is no rule “${rule}” in ${spec.name}.`, '--waive', `Its rules are: ${rules.join(', ')}.`)
    return { rule, reason, initials: initials!.trim(), at: new Date().toISOString(), accepted: 'anything' }
  })
}

/** Kinds of checksum as typed, parted by commas. */
export function readChecksums(text: string): ChecksumName[] {
  const names = text.split(',').map((t) => t.trim())
  return names.map((name) => {
    const kind = checksumKinds.find((k) => k.name === name)
    return (
      kind?.name ??
      fail(
        'usage',
        `There is no kind of checksum “${name}”.`,
        '--checksums',
        `There are ${listed(checksumKinds.map((k) => k.name))}.`,
      )
    )
  })
}

/** A frame rate as typed. */
export function readRate(text: string): Rate {
  return (
    parseRate(text) ??
    fail('rate.invalid', `“${text}” is not a frame rate.`, '--rate', 'Write it as 25, 29.97 or 30000/1001.')
  )
}

/** What pictures are, as typed. */
export function readScan(text: string): Scan {
  const read = scanSchema.safeParse(text)
  return read.success
    ? read.data
    : fail('usage', `There is no scan “${text}”.`, '--scan', `There are ${listed(scanSchema.options)}.`)
}

export const readSoundTracks = (text: string): SoundTracks =>
  soundTrackReadings.find((r) => r === text) ??
  fail(
    'usage',
    `Sound tracks are not read as “${text}”.`,
    '--sound-tracks',
    `They are read as ${listed(soundTrackReadings, 'or')}.`,
  )

/** Storage roots for a timeline and the folders its media may be in; without any, the folder it lies in itself. */
export function mediaRoots(timeline: string, folders: readonly string[]): Root[] {
  // of a run of stills, or a set of sound files, under their one name
  const files = filesOf(timeline) ?? [timeline]
  if (![files[0]!, files.at(-1)!].every((f) => existsSync(f)))
    fail('file.missing', 'There is no such file.', timeline, 'Check the path.')
  for (const f of folders)
    if (!existsSync(f) || !statSync(f).isDirectory())
      fail('file.missing', 'There is no such folder.', f, 'Check the path given with --media.')
  return [
    { name: 'timeline', path: path.dirname(timeline) },
    ...folders.map((f, i) => ({ name: `media ${i + 1}`, path: path.resolve(f) })),
  ]
}

/** `--set KEY=VALUE` values as recipe settings; names the key that is wrong. */
function readSettings(list: readonly string[], recipe: Recipe): Overrides {
  const has = recipeKind(recipe).settings
  const out: Record<string, unknown> = {}
  for (const item of list) {
    const m = /^([A-Za-z]+)=(.*)$/.exec(item)
    const key = m?.[1] as Setting | undefined
    if (!m || !key || !has.includes(key))
      fail(
        'set.unknown',
        `“${item}” is not a setting of ${recipe.name}.`,
        '--set',
        `Its settings are: ${has.join(', ')}.`,
      )
    out[key] = settingValue(key, m[2]!)
  }
  const parsed = overridesSchema.safeParse(out)
  if (!parsed.success)
    fail(
      'set.invalid',
      `${parsed.error.issues[0]!.path.join('.')}: ${parsed.error.issues[0]!.message}`,
      '--set',
      'Correct the value.',
    )
  return parsed.data
}

/** The recipe that is called by its kind or its name, with the settings given for it. */
export function readRecipe(name: string): Recipe {
  const recipes = shippedRecipes()
  const base =
    recipes.find((r) => r.kind === name || r.name.toLowerCase() === name.toLowerCase()) ??
    fail(
      'recipe.unknown',
      `There is no recipe called “${name}”.`,
      '--recipe',
      `The recipes are: ${recipes.map((r) => r.kind).join(', ')}.`,
    )
  return { ...base, ...readSettings(every('--set'), base) }
}

export function readPatience(text: string): number {
  const minutes = Number(text)
  if (!Number.isInteger(minutes) || minutes < 0)
    fail('usage', `“${text}” is not a number of minutes.`, '--wait', 'Give whole minutes.')
  return minutes
}

export function readWorkers(text: string | undefined): number {
  const workers = text === undefined ? availableParallelism() : Number(text)
  if (!Number.isInteger(workers) || workers < 1 || workers > 64)
    fail('workers.invalid', `“${text}” is not a number of workers.`, '--workers', 'Give a number from 1 to 64.')
  return workers
}
