import { mkdtempSync } from 'node:fs'
import { mkdir, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { defineCommand } from 'citty'
import type { Outlet } from '../core/deliverable/outlet'
import { checksumKinds, usualChecksums } from '../core/files/checksums'
import { scanSchema } from '../core/media/scan'
import { ProblemError } from '../core/problem'
import { recipeKind, recipeKinds } from '../core/recipe/registry'
import { openSpec } from '../core/spec/shipped'
import { asksAboutContent, asksAboutUnits, type Spec } from '../core/spec/spec'
import type { NamedRange } from '../core/split/makers/maker'
import { rangesBy } from '../core/split/makers/registry'
import { listed, plural } from '../core/text'
import { problemsOf } from '../core/timeline/link/source'
import { usualPatience } from '../engine/runs/away'
import { Session, type SessionOptions } from '../engine/session'
import {
  every,
  mediaRoots,
  pairs,
  readChecksums,
  readPatience,
  readRate,
  readRecipe,
  readScan,
  readSoundTracks,
  readWaivers,
  readWorkers,
} from './arguments'
import { attempt } from './attempt'
import { findSpec } from './check'
import { dryRun, execute, measured } from './exportrun'
import { countFinished, folderOfCall, forgetUnfinished } from './takeup'
import { whenToldToEnd } from './terminal'
import { readText } from './timeline'

export const exportCommand = defineCommand({
  meta: { name: 'export', description: 'Export regions of a media file or a timeline, checked and proven.' },
  args: {
    source: {
      type: 'positional',
      required: true,
      description: 'media file, or a timeline of many sources with --media',
    },
    media: { type: 'string', description: 'folder to look for the media of a timeline in; may be repeated' },
    recipe: {
      type: 'string',
      required: true,
      description: listed(
        recipeKinds.map((k) => k.kind),
        'or',
      ),
    },
    to: { type: 'string', required: true, description: 'folder for the files' },
    regions: {
      type: 'string',
      description: 'CSV with the header name,in,out; also outlet, chapters; further columns are metadata',
    },
    cuts: { type: 'string', description: 'edit decision list; without --regions each of its events is a region' },
    rate: { type: 'string', description: 'frame rate of a list that does not say its own, such as 25 or 30000/1001' },
    scan: {
      type: 'string',
      description: `what its pictures are, where the file does not say it rightly: ${listed(scanSchema.options, 'or')}`,
    },
    'sound-tracks': {
      type: 'string',
      description:
        'how sound tracks of a list are read that name no channels: each with one (each); with all, side by side ' +
        '(beside) or mixed (mixed)',
    },
    outlet: { type: 'string', description: 'specification to hold the files against' },
    name: { type: 'string', description: 'name pattern', default: '{number}_{region}' },
    set: { type: 'string', description: 'KEY=VALUE of the recipe; may be repeated' },
    checksums: {
      type: 'string',
      description: `${listed(
        checksumKinds.map((k) => k.name),
        'or',
      )}, parted by commas`,
      default: usualChecksums.join(','),
    },
    'dry-run': { type: 'boolean', description: 'list every step and write nothing' },
    paper: { type: 'string', description: "metadata of every region, as 'production number=FA-101'; may be repeated" },
    waive: { type: 'string', description: 'RULE=REASON, accepted for every file; may be repeated' },
    initials: { type: 'string', description: 'who accepts what is waived' },
    workers: { type: 'string', description: 'worker processes' },
    wait: { type: 'string', description: 'minutes to wait for a drive that is away', default: String(usualPatience) },
    anew: { type: 'boolean', description: 'make every file, also those that a call that was cut off has made' },
    json: { type: 'boolean', description: 'as JSON' },
  },
  run: ({ args }) =>
    attempt(async () => {
      const recipe = readRecipe(args.recipe)
      const workers = readWorkers(args.workers)
      const patience = readPatience(args.wait)
      const checksums = readChecksums(args.checksums)
      const spec = args.outlet === undefined ? openSpec : await findSpec(args.outlet)
      const source = path.resolve(args.source)
      const to = path.resolve(args.to)
      const dry = args['dry-run'] === true
      // a source that is not there is said before anything is made
      const media = mediaRoots(source, every('--media'))
      if (!dry) await mkdir(to, { recursive: true })
      const data = dry
        ? mkdtempSync(path.join(tmpdir(), 'velvet-export-'))
        : folderOfCall(process.argv.slice(2), process.cwd())
      if (args.anew) await rm(data, { recursive: true, force: true })
      // nothing may be written by a dry run: the destination stands for itself only when it is there
      const engine = await openAgain(data, {
        data,
        roots: [
          ...media,
          { name: 'to', path: to },
          ...(args.cuts ? [{ name: 'cuts', path: path.dirname(path.resolve(args.cuts)) }] : []),
        ],
        workers: 0,
        // the pass over the pictures costs as much as decoding them: it is made where what media say decides
        analyse: asksAboutContent(spec) || (recipeKind(recipe).copies && asksAboutUnits(spec)),
        patience,
      })
      let whole = false
      const putAway = async () => {
        const left = !whole && !dry && (await countFinished(engine)) > 0
        await engine.close()
        if (!left) await rm(data, { recursive: true, force: true })
      }
      let told = false
      const stay = whenToldToEnd(async () => {
        told = true
        // what is half made leaves nothing at the destination, once nobody writes into it any more
        await engine.pool.stop()
        await forgetUnfinished(engine)
        await putAway()
      })
      try {
        await forgetUnfinished(engine)
        await lay(engine, source, args, {
          ...{ recipe, spec, checksums, name: args.outlet ?? 'export', pattern: args.name },
        })
        engine.pool.start(workers)
        const judged = await measured(engine)
        if (dry) return dryRun(judged, workers, to, args.json === true)
        const failed = await execute(engine, judged, workers, to, args.json === true)
        whole = failed === 0
        return whole ? 0 : 1
      } finally {
        // who was told to end puts everything away and ends the process
        if (told) await new Promise(() => undefined)
        stay()
        await putAway()
      }
    }),
})

/** Opens what an earlier call left behind; what that broke off in the middle of is begun anew. */
async function openAgain(data: string, options: SessionOptions): Promise<Session> {
  try {
    return await Session.open(options)
  } catch (e) {
    if (!(e instanceof ProblemError) || e.problem.code !== 'data.damaged') throw e
    await rm(data, { recursive: true, force: true })
    return Session.open(options)
  }
}

/** Brings the source in, splits it, and chooses every region for the one outlet there is. */
async function lay(
  engine: Session,
  source: string,
  args: {
    readonly rate?: string
    readonly scan?: string
    readonly 'sound-tracks'?: string
    readonly cuts?: string
    readonly regions?: string
    readonly outlet?: string
    readonly initials?: string
  },
  outlet: Pick<Outlet, 'name' | 'recipe' | 'pattern' | 'checksums'> & { readonly spec: Spec },
): Promise<void> {
  const t = await engine.timelines.bringIn(
    { root: 'timeline', path: path.basename(source) },
    {
      show: path.basename(path.dirname(source)) || 'export',
      ...(args.rate ? { rate: readRate(args.rate) } : {}),
      ...(args.cuts ? { cuts: { root: 'cuts', path: path.basename(args.cuts) } } : {}),
    },
  )
  if (args.scan) await engine.timelines.setScan(t.id, readScan(args.scan))
  const tracks = args['sound-tracks']
  if (tracks) await engine.timelines.setSoundTracks(t.id, readSoundTracks(tracks))
  const { linking } = tracks ? await engine.timelines.get(t.id) : t
  for (const p of [...t.problems, ...(linking?.sources ?? []).flatMap(problemsOf)])
    process.stderr.write(`${p.where ?? ''}: ${p.message}\n`)
  const list = args.regions && { text: await readText(args.regions), fileName: args.regions }
  const way = list ? 'file' : args.cuts ? 'events' : 'whole'
  const listed = rangesBy(way, { timeline: t.model, ...(list ? { list } : {}) })
  const ranges = listed.filter((r) => goesTo(r, args.outlet))
  if (ranges.length < listed.length)
    process.stderr.write(`${plural(listed.length - ranges.length, 'region')} of the list not for ${args.outlet}.\n`)
  const metadata = pairs('--paper')
  const regions = ranges.map((r, i) => ({
    id: `r${i + 1}`,
    ...{ name: r.name, in: r.in, out: r.out },
    metadata: { ...metadata, ...r.metadata },
  }))
  const markers = ranges.flatMap((r) => r.chapters ?? []).map((c, i) => ({ id: `m${i + 1}`, ...c }))
  await engine.timelines.saveSplit(t.id, { regions, markers }, t.splitVersion)
  const { spec } = outlet
  if (spec !== openSpec && !(await engine.outlets.specs()).some((s) => s.id === spec.id))
    await engine.outlets.saveSpec(spec)
  await engine.outlets.save({ ...outlet, id: 'cli', spec: spec.id, root: 'to', folder: '' })
  const keys = regions.map((r) => ({ timelineId: t.id, regionId: r.id, outletId: 'cli' }))
  await engine.outlets.choose(keys, true)
  for (const waiver of readWaivers(spec, args.initials)) await engine.outlets.waive(keys, waiver)
}

/** Whether a list sends a region to the outlet that is exported for; where nothing is said, it does. */
const goesTo = ({ outlets }: NamedRange, outlet: string | undefined) =>
  outlet === undefined || !outlets || outlets.some((o) => o.toLowerCase() === outlet.toLowerCase())
