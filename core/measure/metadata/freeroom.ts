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
    const { free, needed, rough } = room
    const left = said(free - needed, `${bytesText(free)} free, ${bytesText(needed)} needed by all`)
    return rough ? { ...left, give: { by: rough, text: bytesText(rough), when: 'as forecast' } } : left
  },
  words: () => 'enough room',
}
