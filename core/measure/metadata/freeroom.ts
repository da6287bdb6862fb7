import { bytesText } from '../../text'
import { said, type Measure } from '../measure'

/** Bytes left at the destination once everything is written. */
export const freeRoom: Measure = {
  name: 'free-room',
  label: 'Free room',
  group: 'metadata',
  counts: true,
  stage: 'before',
  read({ room }) {
    if (!room) return null
    return said(room.free - room.needed, `${bytesText(room.free)} free, ${bytesText(room.needed)} needed by all`)
  },
  words: () => 'enough room',
}
