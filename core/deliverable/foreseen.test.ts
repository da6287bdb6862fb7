import { expect, it } from 'vitest'
import type { VideoInfo } from '../media/media'
import { shippedRecipes } from '../recipe/registry'
import type { Draft } from './draft'
import { changesPictures } from './foreseen'

const hd = { width: 1920, height: 1080, pixelAspect: '1:1' }
const wide = { width: 720, height: 576, pixelAspect: '64:45' }
const narrow = { ...wide, pixelAspect: '16:15' }

/** Whether pictures of one shape in a raster of another are seen otherwise than in the source. */
function changed(own: typeof hd, raster: typeof hd, fit: string, kind = 'viewing'): boolean {
  const recipe = { ...shippedRecipes().find((r) => r.kind === kind)!, fit }
  const video = { ...own, scan: 'progressive', colour: null } as unknown as VideoInfo
  return changesPictures({
    recipe,
    output: { video: { ...raster, scan: 'progressive' } },
    timeline: { info: { video: [video] } },
  } as unknown as Draft)
}

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
