import { existsSync } from 'node:fs'
import { readFile, stat } from 'node:fs/promises'
import path from 'node:path'
import { defineCommand } from 'citty'
import { fail, problemText, toProblem, type Problem } from '../core/problem'
import { cleared, worstVerdict, type RuleResult, type Verdict } from '../core/spec/judge'
import type { Readings } from '../core/measure/measure'
import { measureOf, measures } from '../core/measure/registry'
import { shippedSpecs } from '../core/spec/shipped'
import { judgeFile } from '../core/spec/judgefile'
import { specSchema, type Spec } from '../core/spec/spec'
import { plural } from '../core/text'
import { readWaivers } from './arguments'
import { attempt } from './attempt'
import { missedBelow, readWithSums } from '../engine/received/sums'
import { differing, SumLists } from '../engine/storage/listedsums'
import { mediaBelow } from '../engine/storage/mediabelow'
import { measureFile } from '../engine/worker/measurefile'
import { Progress, verdictText } from './terminal'

/** A spec that ships, by its id, or one from a JSON file. */
export async function findSpec(name: string): Promise<Spec> {
  const shipped = shippedSpecs.find((s) => s.id === name.toLowerCase())
  if (shipped) return shipped
  if (!existsSync(name))
    fail(
      'spec.unknown',
      `There is no specification called “${name}”, and no such file.`,
      name,
      `Those that ship are: ${shippedSpecs.map((s) => s.id).join(', ')}.`,
    )
  let value: unknown
  try {
    value = JSON.parse(await readFile(name, 'utf8'))
  } catch (e) {
    fail('spec.not-json', `The specification is not JSON: ${(e as Error).message}`, name, 'See docs/spec-format.md.')
  }
  const parsed = specSchema.safeParse(value)
  if (!parsed.success) {
    const first = parsed.error.issues[0]!
    fail('spec.invalid', `${first.path.join('.') || 'The file'}: ${first.message}`, name, 'See docs/spec-format.md.')
  }
  return parsed.data
}

/** A file that was held against a specification, or why it could not be. */
interface Checked {
  readonly file: string
  readonly verdict: Verdict | 'unreadable'
  readonly results: readonly RuleResult[]
  readonly problem?: Problem
}

async function checkFile(file: string, spec: Spec, initials: string | undefined, lists: SumLists): Promise<Checked> {
  const progress = new Progress()
  const measured = await measureFile(file, file, (n, of) => progress.tell(n, of))
  progress.clear()
  const readings = await withListedSums(measured, path.resolve(file), lists)
  // a file alone carries no programme metadata that could be held against the rule
  const results = judgeFile(spec, readings, readWaivers(spec, initials))
  return { file, verdict: worstVerdict(results.map((r) => r.verdict)), results }
}

/** What was measured of a file, and of its sums what lists say. */
async function withListedSums(readings: Readings, file: string, lists: SumLists): Promise<Readings> {
  const listed = await lists.of(file)
  if (!readings.intact || listed.length === 0) return readings
  return { ...readings, intact: readWithSums(readings.intact, file, listed, await differing(file, listed)) }
}

/** Checks file after file; one that cannot be read does not keep the others from being checked. */
async function checkFolder(folder: string, spec: Spec, initials: string | undefined, told: (c: Checked) => void) {
  const files = (await mediaBelow(folder)).map((name) => path.join(folder, name))
  const missed = await missedBelow(path.resolve(folder), folder)
  if (files.length + missed.length === 0)
    fail('check.nothing', 'There are no media files in this folder.', folder, 'Give the folder that the files are in.')
  const all: Checked[] = []
  const lists = new SumLists(path.resolve(folder))
  for (const file of files) {
    const checked = await checkFile(file, spec, initials, lists).catch((e: unknown): Checked => {
      return { file, verdict: 'unreadable', results: [], problem: toProblem(e, file) }
    })
    told(checked)
    all.push(checked)
  }
  for (const { path: file, problem } of missed) {
    const checked: Checked = { file, verdict: 'unreadable', results: [], problem: problem! }
    told(checked)
    all.push(checked)
  }
  return all
}

const asJson = ({ file, verdict, results, problem }: Checked) => ({
  file,
  verdict,
  ...(problem ? { problem } : {}),
  rules: results.map((r) => ({
    id: r.rule.id,
    measure: r.rule.measure,
    severity: r.rule.severity,
    required: r.required,
    value: r.written?.value ?? null,
    text: r.written?.text ?? null,
    verdict: r.verdict,
    clause: r.rule.clause,
    why: r.why,
  })),
})

function sayRule(r: RuleResult): void {
  const missed = r.verdict === 'fail' || r.verdict === 'caution'
  const required = missed ? `   required: ${r.required} (${r.rule.clause})` : ''
  const measure = measureOf(r.rule.measure).label.padEnd(widest)
  const found = r.verdict === 'unmeasured' ? unmeasured(r) : (r.written?.text ?? 'not measured')
  process.stdout.write(`${verdictText(r.verdict, 10)} ${measure} ${found}${required}\n`)
}

/** Why there is no verdict. */
function unmeasured({ written, why }: RuleResult): string {
  if (!written) return 'could not be measured'
  return written.value === null ? `cannot be measured, ${written.text}` : why
}

/** Letters of the longest label. */
const widest = Math.max(...measures.map((m) => m.label.length))

/** Of one of many files: its verdict, and what is not as it should be. */
function sayFile({ file, verdict, results, problem }: Checked): void {
  process.stdout.write(`${verdict === 'unreadable' ? verdict.padEnd(10) : verdictText(verdict, 10)} ${file}\n`)
  if (problem) process.stdout.write(`           ${problemText(problem)}\n`)
  for (const r of results.filter((x) => x.verdict !== 'pass')) {
    process.stdout.write('  ')
    sayRule(r)
  }
}

/** 2 where a file could not be read, 1 where a must-rule is not met or was not measured, else 0. */
function exitCode(all: readonly Checked[]): number {
  if (all.some((c) => c.verdict === 'unreadable')) return 2
  return all.every((c) => cleared(c.results)) ? 0 : 1
}

export const checkCommand = defineCommand({
  meta: {
    name: 'check',
    description:
      'Hold a file, or all media files in a folder, against a specification. Exit 0: all must-rules pass. 1: one ' +
      'fails, or could not be measured. 2: a file could not be read.',
  },
  args: {
    file: { type: 'positional', required: true, description: 'media file, or a folder of them' },
    spec: { type: 'string', required: true, description: 'name of a specification, or a JSON file' },
    waive: { type: 'string', description: 'RULE=REASON, accepted; may be repeated' },
    initials: { type: 'string', description: 'who accepts what is waived' },
    json: { type: 'boolean', description: 'as JSON' },
  },
  run: ({ args }) =>
    attempt(async () => {
      const spec = await findSpec(args.spec)
      const print = (value: unknown) => process.stdout.write(`${JSON.stringify(value, null, 2)}\n`)
      if ((await stat(args.file).catch(() => null))?.isDirectory()) {
        const all = await checkFolder(args.file, spec, args.initials, args.json ? () => undefined : sayFile)
        if (args.json) print({ folder: args.file, spec: spec.id, files: all.map(asJson) })
        else {
          const passed = all.filter((c) => c.verdict === 'pass').length
          process.stdout.write(`${spec.name}: ${passed} of ${plural(all.length, 'file')} pass\n`)
        }
        return exitCode(all)
      }
      const lists = new SumLists(path.dirname(path.resolve(args.file)))
      const checked = await checkFile(args.file, spec, args.initials, lists)
      if (args.json) print({ ...asJson(checked), spec: spec.id })
      else {
        checked.results.forEach(sayRule)
        process.stdout.write(`${spec.name}: ${checked.verdict}\n`)
      }
      return exitCode([checked])
    }),
})
