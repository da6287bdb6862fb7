import { brandOf, brands } from '../container/registry'
import { formatNamed, formats } from '../timeline/formats/registry'

// What files are by their names: everything that offers, filters or looks for files asks here.

/** Whether a name is that of an interchange file which holds a timeline. */
export function isTimelineFile(name: string): boolean {
  return formatNamed(name)?.holds === 'timeline'
}

/** Whether a name is that of a file which holds chapters alone. */
export function isChapterFile(name: string): boolean {
  return formatNamed(name)?.holds === 'chapters'
}

/** Whether a name is that of a media file of any kind. */
export function isMediaFile(name: string): boolean {
  return brandOf(name) !== null
}

/** Whether a name is that of a media file with pictures, as a rule. */
export function isPictureFile(name: string): boolean {
  return brandOf(name)?.pictures === true
}

/** Endings of all files that can be brought in as a timeline or with one, for a file dialog. */
export function timelineEndings(): string[] {
  const media = brands().flatMap((b) => b.extensions)
  return [...media, ...formats.map((f) => f.extensions[0]!)]
}
