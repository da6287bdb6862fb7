import type { Media } from '../../../core/media/media'
import { fail } from '../../../core/problem'
import type { FrameRange } from '../../../core/time/range'
import type { Frames, Samples } from '../../../core/time/rate'
import { sampleAtFrame } from '../../../core/time/samples'
import type { DeliverableStep } from '../context'

/** A stretch of one file with a container of its own, whose essence is copied untouched. */
export interface CopiedFilm {
  readonly media: Media
  readonly range: FrameRange
  /** The frame of the timeline that it begins at. */
  readonly at: Frames
}

/** What a deliverable's region is copied from, file by file. */
export function copiedFilms({ item, source }: DeliverableStep): CopiedFilm[] {
  let next = item.region.in
  return source.copy({ in: item.region.in, out: item.region.out }).map(({ file, range }) => {
    const at = next
    next += range.out - range.in
    return {
      media:
        file.media ??
        fail(
          'rewrap.stills',
          'Stills and sets of sound files cannot be copied untouched into a film.',
          item.target.path,
          'Use copied stills, a master or a viewing copy.',
        ),
      range,
      at,
    }
  })
}

/**
 * The samples of each film that its sound is copied from: as many as its frames have on the timeline, so that none is
 * doubled or missing where one film follows the other.
 */
export function copiedSamples<F extends CopiedFilm>(
  { item: { timeline } }: DeliverableStep,
  films: readonly F[],
  sampleRate: number,
): (F & { readonly from: Samples; readonly count: Samples })[] {
  const place = (frame: Frames) => sampleAtFrame(frame, timeline.rate, sampleRate)
  return films.map((film) => ({
    ...film,
    from: place(film.range.in),
    count: place(film.at + film.range.out - film.range.in) - place(film.at),
  }))
}
