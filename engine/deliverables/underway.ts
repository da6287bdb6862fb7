import type { Draft } from '../../core/deliverable/draft'
import { grouped } from '../../core/group'
import { scratchBytes } from '../storage/scratch'
import type { Roots } from '../storage/roots'
import type { Db } from '../store/database'
import { deliverableRow, frozenOf } from '../store/deliverables'

/** What a file needs room for. */
type Need = Pick<Draft, 'output' | 'steps'>

/** A file that a night is making, or will come to. */
export interface FileUnderWay extends Need {
  readonly id: string
  /** The sum it will be known by, see `identitySum`. */
  readonly identity: string
  readonly root: string
  /** The name of the run that makes it. */
  readonly run: string
}

/** What nights that go on still have to make: they need room too. No sheet is read twice. */
export class FilesUnderWay {
  private read = new Map<string, Need | null>()

  constructor(
    private readonly db: Db,
    private readonly roots: Roots,
    private readonly installation: string,
  ) {}

  async all(): Promise<FileUnderWay[]> {
    const rows = await this.db
      .selectFrom('deliverable')
      .innerJoin('run', 'run.id', 'deliverable.run_id')
      .select(['deliverable.id', 'identity', 'root', 'run.name as run'])
      .where('run.state', 'in', ['running', 'paused'])
      .where('deliverable.state', 'in', ['waiting', 'running'])
      .execute()
    const before = this.read
    this.read = new Map()
    for (const { id } of rows) this.read.set(id, before.get(id) ?? (await this.readOne(id)))
    return rows.flatMap(({ id, identity, root, run }) => {
      const need = this.read.get(id)
      return need ? [{ id, identity: identity!, root, run, ...need }] : []
    })
  }

  /** Bytes of what is written of them already, at all of their roots. */
  async written(files: readonly Pick<FileUnderWay, 'id' | 'root'>[]): Promise<number> {
    let bytes = 0
    for (const [root, own] of grouped(files, (f) => f.root))
      bytes += await scratchBytes(this.roots, root, this.installation, new Set(own.map((f) => f.id)))
    return bytes
  }

  /** Null where the sheet cannot be read, which is said where it is shown. */
  private async readOne(id: string): Promise<Need | null> {
    try {
      const { output, steps } = frozenOf(await deliverableRow(this.db, id))
      return { output, steps }
    } catch {
      return null
    }
  }
}
