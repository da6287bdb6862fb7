import { checksumKind } from '../../core/files/checksums'
import type { MediaUsed } from '../../core/deliverable/judged'
import { toProblem, type Problem } from '../../core/problem'
import type { SplitTimeline } from '../../core/split/timeline'
import { listed } from '../../core/text'
import { Polling } from '../polling'
import type { Queue } from '../queue/port'
import { SumLists, type ExpectedSum } from '../storage/listedsums'
import type { Roots } from '../storage/roots'
import { noteChange } from '../store/changes'
import { problemOf } from '../store/deliverables'
import type { Db } from '../store/database'
import { factKeys, readFacts } from '../store/facts'
import { backgroundOffer } from '../worker/background'
import { fileProblem } from './mediastate'

/** The media files of a timeline. */
const mediaOf = (t: Pick<SplitTimeline, 'file' | 'fingerprint' | 'linking'>): readonly MediaUsed[] =>
  t.linking ? t.linking.assembly.sources : [{ ...t.file, fingerprint: t.fingerprint }]

const keyOf = ({ root, path, fingerprint }: MediaUsed) => `${root}\0${path}\0${fingerprint.content}`

/** What is not well with a file; `awaited`: it is still being held against lists of checksums. */
type State = Problem | 'awaited'

/** Files that are looked at at once. */
const together = 16

/**
 * What is wrong with the media of timelines right now: gone, replaced, or not what a list of checksums says was sent.
 * It is looked at every few seconds, so that whoever asks does not wait for a disk.
 */
export class MediaHealth {
  private readonly polling = new Polling('media of timelines', () => this.look())
  private found: ReadonlyMap<string, State> = new Map()
  private readonly asked = new Set<string>()

  constructor(
    private readonly db: Db,
    private readonly roots: Roots,
    private readonly queue: Queue,
    private readonly timelines: () => Promise<readonly SplitTimeline[]>,
    private readonly analysing: boolean,
  ) {}

  start(everyMs = 10_000): void {
    this.polling.start(everyMs)
  }

  stop(): void {
    this.polling.stop()
  }

  /** What was wrong with a file at the last look. */
  of(file: MediaUsed): Problem | null {
    const state = this.state(file)
    return state === 'awaited' ? null : state
  }

  /** Whether a file was still being held against the lists of checksums beside it. */
  awaits(file: MediaUsed): boolean {
    return this.state(file) === 'awaited'
  }

  private state(file: MediaUsed): State | null {
    return this.found.size === 0 ? null : (this.found.get(keyOf(file)) ?? null)
  }

  /** Looks at all of it; timelines of which something else is wrong than before have changed. */
  async look(): Promise<void> {
    const all = await this.timelines()
    const files = [...new Map(all.flatMap(mediaOf).map((f) => [keyOf(f), f])).values()]
    const found = new Map<string, State>()
    const lists = new Map<string, SumLists>()
    for (let i = 0; i < files.length; i += together)
      await Promise.all(
        files.slice(i, i + together).map(async (f) => {
          const state = await this.stateNow(f, lists)
          if (state) found.set(keyOf(f), state)
        }),
      )
    const before = this.found
    this.found = found
    const said = (state: State | undefined) => (state === 'awaited' ? state : state?.message)
    const other = (f: MediaUsed) => said(before.get(keyOf(f))) !== said(found.get(keyOf(f)))
    for (const t of all) if (mediaOf(t).some(other)) await noteChange(this.db, 'timelines', t.id)
  }

  /** What is wrong with a file this moment. */
  async now(file: MediaUsed, lists = new Map<string, SumLists>()): Promise<Problem | null> {
    const state = await this.stateNow(file, lists)
    return state === 'awaited' ? null : state
  }

  private async stateNow(file: MediaUsed, lists: Map<string, SumLists>): Promise<State | null> {
    const own = await fileProblem(this.roots, file)
    return own ?? this.otherThanListed(file, lists).catch((e: unknown) => unheld(toProblem(e, file.path)))
  }

  /** Whether lists of checksums beside a file name others than its own; where that is not known yet it is asked for. */
  private async otherThanListed(file: MediaUsed, lists: Map<string, SumLists>): Promise<State | null> {
    const top = this.roots.resolve(file.root, '')
    const known = lists.get(file.root) ?? new SumLists(top)
    lists.set(file.root, known)
    const expected = await known.of(this.roots.resolve(file.root, file.path))
    if (expected.length === 0) return null
    const fact = factKeys.listedSums(file.fingerprint, file, expected)
    const differ = (await readFacts(this.db, [fact])).get(fact) as readonly ExpectedSum[] | undefined
    if (differ) return differ.length ? notSent(file, differ) : null
    return this.analysing ? this.ask(file, fact, expected) : null
  }

  /** Has a file summed, once as long as this process runs, unless that was lost; gives why it could not be done. */
  private async ask(file: MediaUsed, fact: string, expected: readonly ExpectedSum[]): Promise<State | null> {
    const { root, path, fingerprint } = file
    const step = this.asked.has(fact) ? await this.stepOf(fact) : null
    const problem = step?.state === 'failed' ? problemOf(step) : null
    if (problem) return unheld(problem)
    this.asked.add(fact)
    const payload = { fact, source: { root, path, fingerprint }, listed: expected }
    if (!step) await this.queue.offer([backgroundOffer('hold-sums', payload, 1, 'before')])
    return 'awaited'
  }

  private stepOf(fact: string) {
    return this.db
      .selectFrom('step')
      .select(['id', 'state', 'problem'])
      .where('run_id', 'is', null)
      .where('key', '=', fact)
      .executeTakeFirst()
  }
}

const unheld = (p: Problem): Problem => ({
  ...p,
  message: `It could not be held against the checksums beside it. ${p.message}`,
})

function notSent({ path }: MediaUsed, differ: readonly ExpectedSum[]): Problem {
  const sums = [...new Set(differ.map((e) => `${checksumKind(e.kind).label} of ${e.file} in ${e.list}`))]
  return {
    code: 'media.other-sum',
    message: `It is not what was sent: it has not the ${listed(sums.slice(0, 3))}.`,
    where: path,
    fix: 'Copy it again from where it came from; take the list away where it is of another version.',
  }
}
