import type { TimelineFormat } from '../format'
import { readOtio } from './read'
import { writeOtio } from './write'

/** OpenTimelineIO JSON. */
export const otio: TimelineFormat = {
  name: 'otio',
  label: 'OpenTimelineIO JSON',
  extensions: ['.otio', '.json'],
  holds: 'timeline',
  sequential: true,
  recognise: (head, text) => head.startsWith('{') && /"OTIO_SCHEMA"/.test(text),
  read: (text, fileName) => readOtio(text, fileName),
  write: writeOtio,
}
