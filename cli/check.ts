import { existsSync } from 'node:fs'
import { readFile } from 'node:fs/promises'
import path from 'node:path'
import { defineCommand } from 'citty'
import { openPictures, canDecodePictures } from '../core/codec/pictures'
import { openSound } from '../core/codec/sound'
import { pictureMeters } from '../core/analysis/pictures'
import { traceOf } from '../core/analysis/trace'
import type { SoundSource } from '../core/codec/codec'
import type { WebCodecs } from '../core/codec/web/webcodecs'
import { mediaTimeBase, type Media } from '../core/media/media'
import { openMedia } from '../core/container/registry'
import { fail } from '../core/problem'
import { cleared, judge, worstVerdict } from '../core/spec/judge'
import { damageOf, describedMedia } from '../core/measure/described'
import type { Evidence, Readings } from '../core/measure/measure'
import { measureOf, readMeasures } from '../core/measure/registry'
import { shippedSpecs } from '../core/spec/shipped'
import { rulesForFile, specSchema, type Spec } from '../core/spec/spec'
import { makeRate, type Rate } from '../core/time/rate'
import { frameAtSample } from '../core/time/samples'
import { machineCodecs } from '../engine/worker/codecs'
import { openFile } from '../engine/storage/disk'
import { analyseWholeSound } from '../engine/worker/steps/analysesound'
import { readWaivers } from './arguments'
import { attempt } from './attempt'
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

/** Every measure of all sound of a file. */
function measureSound(sound: SoundSource, rate: Rate) {
  const frames = frameAtSample(Math.max(0, sound.samples - 1), rate, sound.sampleRate) + 1
  return analyseWholeSound(sound, rate, frames, () => undefined)
}

/** Every measure of all pictures of a file. */
async function measurePictures(media: Media, codecs: WebCodecs | null) {
  const v = media.info.video[0]!
  const meters = pictureMeters(v)
  const range = { in: 0, out: v.frames }
  const progress = new Progress()
  for await (const { frame, picture } of openPictures(media, codecs).read(range)) {
    meters.feed(traceOf(picture))
    progress.tell(frame, v.frames)
  }
  progress.clear()
  return meters.result()
}

/** Everything a specification can ask of a finished file, measured from the file itself. */
export async function measureFile(file: string): Promise<Readings> {
  const source = await openFile(file, file)
  try {
    const media = await openMedia(source)
    const codecs = machineCodecs()
    const base = mediaTimeBase(media.info)
    const from = { rate: makeRate(25), dropFrame: false, ...base, start: media.info.timecode?.startFrames ?? 0 }
    const sound = openSound(media, codecs)
    const heard = sound && (await measureSound(sound, from.rate))
    const v = media.info.video[0]
    const seen = v && base && canDecodePictures(v.codec, codecs) ? await measurePictures(media, codecs) : null
    const evidence: Evidence = {
      described: describedMedia(media.info, base),
      damage: damageOf(media.info),
      name: { file: path.basename(file), bad: null },
      base: from,
      ...(heard ? { sound: heard.facts, trouble: heard.faults } : {}),
      ...(seen ? { pictures: seen } : {}),
    }
    return readMeasures(evidence, 'file')
  } finally {
    await source.close()
  }
}

export const checkCommand = defineCommand({
  meta: {
    name: 'check',
    description:
      'Hold a file against a specification. Exit 0: all must-rules pass. 1: one fails, or could not be measured. ' +
      '2: the file could not be read.',
  },
  args: {
    file: { type: 'positional', required: true, description: 'media file' },
    spec: { type: 'string', required: true, description: 'name of a specification, or a JSON file' },
    waive: { type: 'string', description: 'RULE=REASON, accepted; may be repeated' },
    initials: { type: 'string', description: 'who accepts what is waived' },
    json: { type: 'boolean', description: 'as JSON' },
  },
  run: ({ args }) =>
    attempt(async () => {
      const spec = await findSpec(args.spec)
      const readings = await measureFile(args.file)
      // a file alone carries no programme metadata that could be held against the rule
      const results = judge(rulesForFile(spec), {}, {}, readings, readWaivers(spec, args.initials))
      const verdict = worstVerdict(results.map((r) => r.verdict))
      if (args.json) {
        const rules = results.map((r) => ({
          id: r.rule.id,
          measure: r.rule.measure,
          severity: r.rule.severity,
          required: r.required,
          value: r.written?.value ?? null,
          text: r.written?.text ?? null,
          verdict: r.verdict,
          clause: r.rule.clause,
          why: r.why,
        }))
        process.stdout.write(`${JSON.stringify({ file: args.file, spec: spec.id, verdict, rules }, null, 2)}\n`)
      } else {
        for (const r of results) {
          const missed = r.verdict === 'fail' || r.verdict === 'caution'
          const required = missed ? `   required: ${r.required} (${r.rule.clause})` : ''
          const measure = measureOf(r.rule.measure).label.padEnd(22)
          const found = r.verdict === 'unmeasured' ? r.why : (r.written?.text ?? 'not measured')
          process.stdout.write(`${verdictText(r.verdict, 10)} ${measure} ${found}${required}\n`)
        }
        process.stdout.write(`${spec.name}: ${verdict}\n`)
      }
      return cleared(results) ? 0 : 1
    }),
})
