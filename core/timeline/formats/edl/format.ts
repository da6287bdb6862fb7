import type { TimelineFormat } from '../format'
import { readEdl } from './read'
import { writeEdl } from './write'

/** Edit decision lists (SMPTE ST 258). */
export const edl: TimelineFormat = {
  name: 'edl',
  label: 'an edit decision list',
  extensions: ['.edl', '.txt'],
  holds: 'timeline',
  asksRate: true,
  recognise: (head) => /^(TITLE:|FCM:)/im.test(head) || /^\d{1,6}\s+\S+\s+\S+\s+(C|D|W\d|K)\b/m.test(head),
  read: (text, fileName, rate) => readEdl(text, rate, fileName),
  write: writeEdl,
}
