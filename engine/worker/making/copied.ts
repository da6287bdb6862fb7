import type { Media } from '../../../core/media/media'
import { fail } from '../../../core/problem'
import type { FrameRange } from '../../../core/time/range'
import type { DeliverableStep } from '../context'

/** A stretch of one file with a container of its own, whose essence is copied untouched. */
export interface CopiedFilm {
  readonly media: Media
  readonly range: FrameRange
}

/** What a deliverable's region is copied from, file by file. */
export function copiedFilms({ item, source }: DeliverableStep): CopiedFilm[] {
  return source.copy({ in: item.region.in, out: item.region.out }).map(({ file, range }) => ({
    media:
      file.media ??
      fail(
        'rewrap.stills',
        'Stills and sets of sound files cannot be copied untouched into a film.',
        item.target.path,
        'Use copied stills, a master or a viewing copy.',
      ),
    range,
  }))
}
