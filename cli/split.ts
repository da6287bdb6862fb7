import { mkdtempSync } from 'node:fs'
import { rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { defineCommand } from 'citty'
import type { AnalysisState } from '../contract/timelines'
import { fail } from '../core/problem'
import type { MakeRequest, NamedRange, Needed, SplitMaker } from '../core/split/makers/maker'
import { splitMaker, splitMakers } from '../core/split/makers/registry'
import { readValue, settled } from '../core/split/settings'
import { regionNames } from '../core/split/naming'
import type { SplitTimeline } from '../core/split/timeline'
import { rateText } from '../core/time/rate'
import { formatLength, formatTimecode } from '../core/time/timecode'
import { shotsWithFound } from '../core/timeline/comparecuts'
import { csvLine } from '../core/timeline/formats/csv'
import { timeBase } from '../core/timeline/model'
import { Session } from '../engine/session'
import { every, mediaRoots, pairs, readRate, readWorkers } from './arguments'
import { attempt } from './attempt'
import { nearest } from './near'
import { Progress } from './terminal'
import { readText } from './timeline'

/** The way to split that is called for, and what follows `=`. */
function readWay(text: string): { readonly maker: SplitMaker; readonly value: string | null } {
  const [name, value] = text.split(/=(.*)/s) as [string, string | undefined]
  if (!splitMakers.some((m) => m.name === name)) {
    const near = nearest(
      name,
      splitMakers.map((m) => m.name),
    )
    fail(
      'usage',
      `There is no way to split called “${name}”.${near ? ` Did you mean ${near}?` : ''}`,
      '--by',
      `The ways are: ${splitMakers.map((m) => m.name).join(', ')}.`,
    )
  }
  return { maker: splitMaker(name), value: value ?? null }
}

/** What is set of a way: what follows `--by …=` is its first setting, the others come by name with `--set`. */
function readSettings(maker: SplitMaker, value: string | null, t: SplitTimeline): Record<string, number | string> {
  const settings = maker.settings ?? {}
  const [first] = Object.keys(settings)
  const given = Object.entries({ ...(value !== null && first ? { [first]: value } : {}), ...pairs('--set') })
  return Object.fromEntries(
    given.map(([key, text]) => {
      const setting =
        settings[key] ??
        fail(
          'usage',
          `“${key}” is not a setting of ${maker.name}.`,
          '--set',
          first ? `Its settings are: ${Object.keys(settings).join(', ')}.` : 'It has no settings.',
        )
      return [key, readValue(setting, text, t.model)]
    }),
  )
}

/** Waits until what a way goes by has been looked through. */
async function lookedThrough(engine: Session, t: SplitTimeline, needed: readonly Needed[]): Promise<AnalysisState> {
  const progress = new Progress()
  for (;;) {
    const analysis = await engine.viewing.analysis(t)
    if (needed.every((what) => analysis[what] !== null)) {
      progress.clear()
      return analysis
    }
    if (await engine.viewing.passFailed(t))
      fail('split.not-analysed', 'Its media could not be looked through.', t.name, 'See ./velvet analyse FILE for why.')
    progress.tell(Math.round(analysis.progress * t.model.length), t.model.length)
    await sleep(100)
  }
}

/** The regions a way makes, with the names they get. */
function regionsOf(
  maker: SplitMaker,
  request: MakeRequest,
  values: Record<string, number | string>,
  pattern: string | undefined,
) {
  const ranges = maker.make(request, values)
  const markers = [...(request.markers ?? [])].sort((a, b) => a.at - b.at)
  const names = regionNames(pattern ?? maker.names ?? '{name}', ranges, {
    timeline: request.timeline,
    shots: request.shots ?? [],
    markers,
  })
  return ranges.map((r, i) => ({ ...r, name: names[i]! }))
}

function print(way: string, t: SplitTimeline, regions: readonly NamedRange[], as: { json?: boolean; csv?: boolean }) {
  const base = timeBase(t.model)
  const label = (n: number) => formatTimecode(t.model.start + n, base)
  if (as.json) {
    const list = regions.map((r) => ({ ...r, first: label(r.in), last: label(r.out - 1) }))
    const head = { timeline: t.name, rate: rateText(t.model.rate), start: label(0), length: t.model.length, way }
    process.stdout.write(`${JSON.stringify({ ...head, regions: list }, null, 2)}\n`)
  } else if (as.csv) {
    const fields = [...new Set(regions.flatMap((r) => Object.keys(r.metadata ?? {})))]
    const kinds = regions.some((r) => r.kind)
    const row = (r: NamedRange) => [
      ...[r.name, label(r.in), label(r.out)],
      ...(kinds ? [r.kind ?? ''] : []),
      ...fields.map((f) => r.metadata?.[f] ?? ''),
    ]
    for (const line of [['name', 'in', 'out', ...(kinds ? ['kind'] : []), ...fields], ...regions.map(row)])
      process.stdout.write(`${csvLine(line)}\n`)
  } else
    for (const r of regions)
      process.stdout.write(`${label(r.in)}  ${label(r.out)}  ${formatLength(r.out - r.in, base)}  ${r.name}\n`)
}

export const splitCommand = defineCommand({
  meta: { name: 'split', description: 'Regions of a timeline by one of the ways to split; nothing is written.' },
  args: {
    source: { type: 'positional', required: true, description: 'media file, or a timeline with --media' },
    by: { type: 'string', required: true, description: 'WAY or WAY=VALUE, the value of its first setting' },
    set: { type: 'string', description: 'KEY=VALUE of the way; may be repeated' },
    names: { type: 'string', description: 'pattern of names' },
    media: { type: 'string', description: 'folder to look for the media of a timeline in; may be repeated' },
    cuts: { type: 'string', description: 'edit decision list of a flattened file' },
    rate: { type: 'string', description: 'frame rate of a list that does not say its own' },
    workers: { type: 'string', description: 'worker processes, where pictures or sound are looked through' },
    csv: { type: 'boolean', description: 'as CSV that export --regions takes' },
    json: { type: 'boolean', description: 'as JSON, in frames from the first one' },
  },
  run: ({ args }) =>
    attempt(async () => {
      const { maker, value } = readWay(args.by)
      const source = path.resolve(args.source)
      const media = mediaRoots(source, every('--media'))
      const list = maker.name === 'file' && value !== null ? { text: await readText(value), fileName: value } : null
      const data = mkdtempSync(path.join(tmpdir(), 'velvet-split-'))
      const cuts = args.cuts ? { root: 'cuts', path: path.basename(args.cuts) } : undefined
      const engine = await Session.open({
        data,
        roots: [...media, ...(args.cuts ? [{ name: 'cuts', path: path.dirname(path.resolve(args.cuts)) }] : [])],
        workers: 0,
        analyse: maker.needs !== undefined,
      })
      try {
        const t = await engine.timelines.bringIn(
          { root: 'timeline', path: path.basename(source) },
          { show: 'split', ...(args.rate ? { rate: readRate(args.rate) } : {}), ...(cuts ? { cuts } : {}) },
        )
        for (const p of t.problems) process.stderr.write(`${p.where ?? ''}: ${p.message}\n`)
        const values = readSettings(maker, maker.name === 'file' ? null : value, t)
        const has = { pictures: t.info.video.length > 0, sound: t.info.audio.length > 0 }
        const settings = settled(maker.settings ?? {}, values, t.model)
        const needed = (maker.needs?.(t.model, settings) ?? []).filter((what) => has[what])
        if (needed.length) engine.pool.start(readWorkers(args.workers))
        const { pictures, sound } = await lookedThrough(engine, t, needed)
        const shots = shotsWithFound(t.model, pictures?.cuts ?? [])
        const mute = t.info.audio.length === 0
        const request = { timeline: t.model, shots, markers: t.split.markers, pictures, sound, mute, list }
        const regions = regionsOf(maker, request, values, args.names)
        print(maker.name, t, regions, args)
        for (const r of regions) if (r.doubt) process.stderr.write(`${r.name}: look at it, ${r.doubt}.\n`)
        for (const l of maker.lost?.(request) ?? []) process.stderr.write(`${l.name}: left out, ${l.why}.\n`)
        if (regions.length === 0) process.stderr.write(`${t.name}: ${maker.name} makes nothing here.\n`)
        return regions.length ? 0 : 1
      } finally {
        await engine.close()
        await rm(data, { recursive: true, force: true })
      }
    }),
})
