import type { TimelineFormat } from '../format'
import { readCpl } from './read'
import { writeCpl } from './write'

/** Composition playlists (SMPTE ST 2067-3). */
export const cpl: TimelineFormat = {
  name: 'cpl',
  label: 'a composition playlist',
  extensions: ['.xml'],
  holds: 'timeline',
  sequential: true,
  recognise: (head) => head.startsWith('<') && /<(\w+:)?CompositionPlaylist[\s>/]/.test(head),
  read: (text, fileName) => readCpl(text, fileName),
  write: (timeline) => writeCpl(timeline),
}
