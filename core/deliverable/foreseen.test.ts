import { expect, it } from 'vitest'
import type { VideoInfo } from '../media/media'
import { shippedRecipes } from '../recipe/registry'
import type { Draft } from './draft'
import { changesLevels, changesPictures, cutsLevels } from './foreseen'

const hd = { width: 1920, height: 1080, pixelAspect: '1:1' }
const wide = { width: 720, height: 576, pixelAspect: '64:45' }
const narrow = { ...wide, pixelAspect: '16:15' }

/** Pictures of one shape that go into a raster of another. */
function draft(own: typeof hd, raster: typeof hd, kind: string, more: object): Draft {
  const recipe = { ...shippedRecipes().find((r) => r.kind === kind)!, ...more }
  const video = { ...own, scan: 'progressive', colour: null } as unknown as VideoInfo
  return {
    recipe,
    output: { video: { ...raster, scan: 'progressive' }, container: kind === 'sequence' ? 'stills' : 'mov' },
    timeline: { info: { video: [video] } },
  } as unknown as Draft
}

/** Whether they are seen otherwise than in the source. */
const changed = (own: typeof hd, raster: typeof hd, fit: string, kind = 'viewing') =>
  changesPictures(draft(own, raster, kind, { fit }))

it('pictures that get bars or lose of their edges are seen otherwise', () => {
  const square = { ...hd, width: 1280, height: 720 }
  for (const fit of ['letterbox', 'crop', 'stretch', 'unscaled']) expect(changed(hd, hd, fit)).toBe(false)
  for (const fit of ['letterbox', 'crop', 'stretch']) {
    expect(changed(hd, square, fit)).toBe(false)
    expect(changed(wide, hd, fit)).toBe(false)
    expect(changed(hd, wide, fit)).toBe(false)
  }
  expect(['letterbox', 'crop', 'stretch'].map((fit) => changed(narrow, hd, fit))).toEqual([true, true, false])
  expect(['letterbox', 'crop', 'stretch'].map((fit) => changed(hd, narrow, fit))).toEqual([true, true, false])
  expect([changed(hd, square, 'unscaled'), changed(square, hd, 'unscaled')]).toEqual([true, true])
  expect(changed(narrow, wide, 'letterbox')).toBe(true)
  expect(changed(narrow, hd, 'letterbox', 'rewrap')).toBe(false)
})

it('levels stay in pictures of their size, but for stills that hold none beyond black and white', () => {
  const square = { ...hd, width: 1280, height: 720 }
  const of = (raster: typeof hd, kind: string, more = {}) => {
    const d = draft(hd, raster, kind, more)
    return [changesLevels(d), cutsLevels(d)]
  }
  expect(of(hd, 'master')).toEqual([false, false])
  expect(of(square, 'master')).toEqual([true, false])
  expect(of(square, 'rewrap')).toEqual([false, false])
  expect(of(hd, 'sequence', { stillFormat: 'dpx-10' })).toEqual([true, true])
  expect(of(hd, 'sequence', { stillFormat: 'exr-zip' })).toEqual([false, false])
})
