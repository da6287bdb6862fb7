import type { Became } from '../../contract/deliverables'
import { takingFrom } from '../../core/deliverable/earlier'
import { freeze } from '../../core/deliverable/freeze'
import { changedParts, type Parts } from '../../core/deliverable/identity'
import { judgeDraft, type JudgedDraft, type Known } from '../../core/deliverable/judged'
import type { Draft } from '../../core/deliverable/draft'
import type { EarlierFile } from '../../core/deliverable/sheet'
import type { Seconds } from '../../core/time/rate'
import { identitySum, picturesSum, shortParts, type DeliveredFile } from '../store/deliverables'
import type { FileUnderWay } from './underway'

/** What a deliverable would be known by, had it been delivered. */
export interface KnownBy {
  /** See {@link identitySum}. */
  readonly identity: string
  /** See {@link picturesSum}. */
  readonly pictures: string | null
  /** See {@link shortParts}. */
  readonly parts: Parts
}

/** What was delivered and is still there. */
export class Delivery {
  private readonly byIdentity: ReadonlyMap<string, DeliveredFile>
  private readonly byKey: ReadonlyMap<string, DeliveredFile>
  private readonly byPictures: ReadonlyMap<string, DeliveredFile>
  private readonly runs: ReadonlyMap<string, string>

  /** `files` are what is there, oldest first. */
  constructor(
    files: readonly DeliveredFile[],
    readonly underWay: readonly FileUnderWay[],
  ) {
    this.runs = new Map(underWay.map((f) => [f.identity, f.run]))
    this.byIdentity = new Map(files.map((f) => [f.identity, f]))
    this.byKey = new Map(files.filter((f) => !f.trial).map((f) => [f.key, f]))
    // of a file without sums nobody could say whether it is still what was proven
    const summed = files.filter((f) => f.summed)
    this.byPictures = new Map(summed.flatMap((f) => (f.pictures === null ? [] : [[f.pictures, f]])))
  }

  /** How many different ones, delivered or under way. */
  get size(): number {
    return this.byIdentity.size + this.runs.size
  }

  /** Whether a deliverable is there already, just as it would be made. */
  has({ identity }: KnownBy): boolean {
    return this.byIdentity.has(identity)
  }

  /** The run that makes a deliverable just as it would be made, by its name; null where none does. */
  runOf(by: KnownBy | null): string | null {
    return (by && this.runs.get(by.identity)) ?? null
  }

  /** The newest file of those keys, the first of them that has one. */
  last(keys: readonly string[]): DeliveredFile | null {
    return keys.flatMap((k) => this.byKey.get(k) ?? [])[0] ?? null
  }

  /** What became of a deliverable before, of which a file was delivered `last`. */
  became(by: KnownBy | null, last: DeliveredFile | null): Became | null {
    const alike = by && this.byIdentity.get(by.identity)
    if (alike) return { id: alike.id, path: alike.path, changed: [] }
    return last && { id: last.id, path: last.path, changed: changedParts(last.parts, by!.parts) }
  }

  /**
   * The file that has the pictures of a deliverable already. What is there just as it would be made has none: who asks
   * for that once more wants it made.
   */
  earlier(by: KnownBy | null): EarlierFile | null {
    if (!by || by.pictures === null || this.has(by)) return null
    const file = this.byPictures.get(by.pictures)
    return file ? { id: file.id, root: file.root, path: file.path } : null
  }

  /**
   * Judges a draft, its pictures taken from an earlier file where one has them; and what it would be known by, where
   * that is asked: something was delivered or is under way, or it is one of `several` whose pictures may be coded
   * alike.
   */
  judge(
    draft: Draft,
    known: Known,
    several = false,
  ): { readonly judged: JudgedDraft; readonly by: KnownBy | null; readonly takenIn: Seconds } {
    const judged = judgeDraft(draft, known)
    if (this.size === 0 && !several) return { judged, by: null, takenIn: judged.seconds }
    const frozen = freeze(judged, '')
    const by = { identity: identitySum(frozen), pictures: picturesSum(frozen), parts: shortParts(frozen) }
    const earlier = this.earlier(by)
    const taking = takingFrom(judged, earlier ?? { id: '', root: '', path: '' }, known.paces)
    return { judged: earlier ? taking : judged, by, takenIn: taking.seconds }
  }
}
