import path from 'node:path'
import { LRUCache } from 'lru-cache'
import type { Readings } from '../../core/measure/measure'
import { measureOf, readMeasures } from '../../core/measure/registry'
import type { FilePath } from '../../core/media/filepath'
import type { Fingerprint } from '../../core/media/fingerprint'
import { fail } from '../../core/problem'
import { worstVerdict, type RuleResult } from '../../core/spec/judge'
import { judgeFile } from '../../core/spec/judgefile'
import type { Spec } from '../../core/spec/spec'
import type { ReceivedFile } from '../../contract/received'
import type { Outlets } from '../deliverables/outlets'
import type { Queue } from '../queue/port'
import { statMedia } from '../storage/fileset'
import { fingerprintOf } from '../storage/fingerprint'
import { SumLists, type ExpectedSum } from '../storage/listedsums'
import { mediaBelow } from '../storage/mediabelow'
import { Polling } from '../polling'
import type { Roots } from '../storage/roots'
import type { Db } from '../store/database'
import { readSetting, writeSetting } from '../store/settings'
import { factKeys, readFacts } from '../store/facts'
import { backgroundOffer } from '../worker/background'
import { readingsOf, type FileMeasured } from '../worker/steps/measurefile'
import { missedBelow, readWithSums, sumsKey, type Found } from './sums'

/** Files of a folder that are looked at, at most. */
const most = 2000
/** Work a file is counted as before it is known how many frames it has: its progress is then told as a share. */
const share = 1000

/** Files that came from elsewhere, measured by the workers and held against a specification. */
export class Received {
  private readonly polling = new Polling('the folder of files from elsewhere', () => this.look())
  /** Files of the watched folder, as they were at the last look. */
  private before = new Set<string>()
  /** By place, size and time of change. */
  private readonly fingerprints = new LRUCache<string, Fingerprint>({ max: 10_000 })

  constructor(
    private readonly db: Db,
    private readonly roots: Roots,
    private readonly queue: Queue,
    private readonly outlets: Outlets,
  ) {}

  /** Has the files of a folder measured that have not been. */
  async measure(folder: FilePath): Promise<void> {
    await this.offer(folder.root, await this.files(folder))
  }

  /** Queues what was not measured yet of files, and has no step in `tried`. */
  private async offer(
    root: string,
    files: readonly Found[],
    tried: ReadonlyMap<string, unknown> = none,
  ): Promise<void> {
    const asked = files.flatMap((f) => keysOf(root, f).map(([kind, fact]) => ({ kind, fact, ...f })))
    const known = await readFacts(
      this.db,
      asked.map((a) => a.fact),
    )
    const missing = new Map(asked.filter((a) => !known.has(a.fact) && !tried.has(a.fact)).map((a) => [a.fact, a]))
    await this.queue.offer(
      [...missing.values()].map(({ kind, fact, path: below, fingerprint, listed }) => {
        const payload = { fact, source: { root, path: below, fingerprint } }
        return backgroundOffer(kind, kind === 'hold-sums' ? { ...payload, listed } : payload, share, 'after')
      }),
    )
  }

  /** The folder in which whatever comes is measured; null when there is none. */
  watched(): Promise<FilePath | null> {
    return readSetting(this.db, 'watchReceived')
  }

  /** Measures what is in a folder and what comes into it, from now on; or in none any more. */
  async watch(folder: FilePath | null): Promise<void> {
    if (folder) await this.files(folder)
    await writeSetting(this.db, 'watchReceived', folder)
    this.before = new Set()
    await this.look()
  }

  start(everyMs = 5000): void {
    this.polling.start(everyMs)
  }

  stop(): void {
    this.polling.stop()
  }

  /** One look: files that are as they were at the last look are complete, and are measured if they never were. */
  async look(): Promise<void> {
    const folder = await this.watched()
    if (!folder) return
    const files = await this.files(folder)
    const complete = files.filter((f) => this.before.has(markOf(f)))
    this.before = new Set(files.map(markOf))
    await this.offer(folder.root, complete, await this.steps())
  }

  /** The files of a folder, each with its verdict as far as it was measured. */
  async list(folder: FilePath, specId: string): Promise<ReceivedFile[]> {
    const spec = await this.spec(specId)
    const files = await this.files(folder)
    const known = await this.known(folder.root, files)
    const steps = await this.steps()
    const told = files.map((f): ReceivedFile => {
      const { path: below, size } = f
      const about = { path: below, size, share: null, verdict: null, misses: [], problem: null }
      const measured = known.get(keyOf(f)) as FileMeasured | undefined
      if (measured && 'problem' in measured) return { ...about, state: 'unreadable', problem: measured.problem }
      const open = keysOf(folder.root, f).filter(([, key]) => !known.has(key))
      if (measured && open.length === 0) {
        const results = judged(spec, measured, f, differing(known, folder.root, f))
        const misses = results.filter((r) => r.verdict !== 'pass').map((r) => r.why)
        return { ...about, state: 'judged', verdict: worstVerdict(results.map((r) => r.verdict)), misses }
      }
      const under = open.map(([, key]) => steps.get(key))
      const failed = under.find((s) => s?.state === 'failed')
      if (failed) return { ...about, state: 'unreadable', problem: failed.problem }
      if (under.includes(undefined)) return { ...about, state: 'unmeasured' }
      const [first] = under
      return { ...about, state: 'waiting', share: first!.state === 'claimed' ? first!.done / share : null }
    })
    return [...told, ...(await missedBelow(this.roots.resolve(folder.root, folder.path), folder.path))].sort((a, b) =>
      a.path < b.path ? -1 : 1,
    )
  }

  /** What is known of files, by the keys of facts. */
  private known(root: string, files: readonly Found[]): Promise<Map<string, unknown>> {
    return readFacts(
      this.db,
      files.flatMap((f) => keysOf(root, f).map(([, key]) => key)),
    )
  }

  /** What each rule says of a file that was measured. */
  async results(file: FilePath, specId: string): Promise<RuleResult[]> {
    const spec = await this.spec(specId)
    const [f] = await this.files(file)
    if (!f) return []
    const known = await this.known(file.root, [f])
    const measured = known.get(keyOf(f)) as FileMeasured | undefined
    return measured && 'readings' in measured ? judged(spec, measured, f, differing(known, file.root, f)) : []
  }

  private async spec(id: string): Promise<Spec> {
    const found = (await this.outlets.all()).specs.find((s) => s.id === id)
    return found ?? fail('spec.unknown', `There is no specification “${id}” on the shelf.`, id, 'Choose another one.')
  }

  /** Media files at or below a place, in order of their names; nothing hidden. */
  private async files({ root, path: below }: FilePath): Promise<Found[]> {
    const top = this.roots.resolve(root, below)
    const out: Found[] = []
    const lists = new SumLists(this.roots.root(root).path)
    for (const name of await mediaBelow(top)) {
      const full = path.join(top, name)
      const info = await statMedia(full).catch(() => null)
      if (!info) continue
      if (out.length === most)
        fail('received.many', `There are more than ${most} media files here.`, below, 'Choose a folder in it.')
      const key = `${full} ${info.size} ${info.modified}`
      const fingerprint = this.fingerprints.get(key) ?? (await fingerprintOf(full))
      this.fingerprints.set(key, fingerprint)
      const listed = await lists.of(full)
      out.push({ path: path.posix.join(below, ...name.split(path.sep)), size: info.size, fingerprint, listed })
    }
    return out
  }

  /** Steps that are under way or have failed, by the fact they work out. */
  private async steps() {
    const rows = await this.db
      .selectFrom('step')
      .select(['key', 'state', 'frames_done', 'problem'])
      .where('run_id', 'is', null)
      .where('kind', 'in', ['measure-file', 'hold-sums'])
      .execute()
    return new Map(
      rows.map((r) => [
        r.key,
        {
          state: r.state,
          done: r.frames_done,
          problem: r.problem === null ? null : (JSON.parse(r.problem) as ReceivedFile['problem']),
        },
      ]),
    )
  }
}

const markOf = ({ path: below, fingerprint: f }: Found) => `${below} ${f.content} ${f.size} ${f.modified}`
const keyOf = ({ fingerprint }: Found) => factKeys.file(fingerprint)
const none: ReadonlyMap<string, unknown> = new Map()

/** The kinds of step that measure a file, and the keys of the facts they work out. */
function keysOf(root: string, file: Found): [kind: string, key: string][] {
  const sums = sumsKey(root, file)
  return [['measure-file', keyOf(file)], ...(sums === null ? [] : ([['hold-sums', sums]] as [string, string][]))]
}

/** Sums of lists that a file has not; null while that is not known. */
function differing(known: ReadonlyMap<string, unknown>, root: string, file: Found): readonly ExpectedSum[] | null {
  const key = sumsKey(root, file)
  return key === null ? [] : ((known.get(key) as readonly ExpectedSum[] | undefined) ?? null)
}

/**
 * Every rule held against a file: its name and its sums are those of this very one, whichever of the same content was
 * measured.
 */
function judged(
  spec: Spec,
  { readings }: { readonly readings: Readings },
  { path: below, listed }: Found,
  differ: readonly ExpectedSum[] | null,
): RuleResult[] {
  const name = readMeasures({ name: { file: path.basename(below), bad: null } }, 'file', [measureOf('file-name')])
  const all = readingsOf(readings)
  const { intact } = all
  return judgeFile(spec, { ...all, ...name, ...(intact && { intact: readWithSums(intact, below, listed, differ) }) })
}
