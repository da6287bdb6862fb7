import type { WebCodecs } from '../../../core/codec/web/webcodecs'
import { LRUCache } from 'lru-cache'
import { mostTogether } from '../../../core/job/steps'
import type { Roots } from '../../storage/roots'
import { checkTouched } from '../../storage/wholesum'
import { factKeys } from '../../store/facts'
import type { Facts } from '../facts'
import { checkSource, filesBehind, openSource, type OpenSource, type SourceRef } from './source'

/** Sources that stay open for the next step that reads them; each user says when it is done with one. */
export class SourceCache {
  private readonly open: LRUCache<string, Promise<OpenSource>>

  constructor(
    private readonly roots: Roots,
    private readonly codecs: WebCodecs | null,
    /** Null where nothing is made of what is read: then samples of a file have to do. */
    private readonly facts: Facts | null,
    most = mostTogether,
  ) {
    const close = (source: Promise<OpenSource>) => void source.then((s) => s.close()).catch(() => undefined)
    this.open = new LRUCache({ max: most, dispose: close })
  }

  /** A source, opened anew or as it was left; its files are looked at again each time. */
  async get(ref: SourceRef): Promise<OpenSource> {
    const { facts } = this
    if (facts)
      await checkTouched(
        this.roots,
        async (f) => ((await facts.read([factKeys.sum(f)])).get(factKeys.sum(f)) ?? null) as string | null,
        filesBehind(ref),
      )
    const key = JSON.stringify(ref)
    const kept = this.open.get(key)
    if (kept) {
      try {
        await checkSource(this.roots, ref)
        return await kept
      } catch (e) {
        this.open.delete(key)
        throw e
      }
    }
    const opening = openSource(this.roots, this.codecs, ref)
    this.open.set(key, opening)
    opening.catch(() => this.open.delete(key))
    return opening
  }

  close(): void {
    this.open.clear()
  }
}
