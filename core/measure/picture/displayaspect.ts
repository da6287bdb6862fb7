import { shownShape } from '../../media/presentation'
import { ofPictures, said } from '../measure'

/** Shapes that have names. */
const shapes = [
  ['4:3', 4 / 3],
  ['16:9', 16 / 9],
] as const

/** How near a shape is to one with a name: pictures of 720 samples are a fiftieth wider than what is to be seen. */
const near = 0.03

/** The shape of the whole picture: `16:9`, `4:3`, else its width over its height to two digits, `2.39`. */
export const displayAspect = ofPictures('display-aspect', 'Display aspect', (v) => {
  const shape = shownShape(v)
  const named = shapes.find(([, value]) => Math.abs(shape / value - 1) < near)
  return said(named ? named[0] : shape.toFixed(2))
})
