import { said, type Measure } from '../measure'

/** Whether a region has a raster of its own that is smaller than what its outlet asks: one set once and left. */
export const setRaster: Measure = {
  name: 'set-raster',
  label: 'Raster set here',
  group: 'picture',
  counts: true,
  stage: 'before',
  ends: true,
  read({ rasters }) {
    if (!rasters) return null
    const { here, outlet } = rasters
    const text = (r: typeof here) => `${r.width}×${r.height}`
    if (here.width * here.height < outlet.width * outlet.height)
      return said('smaller', `${text(here)}, smaller than its outlet’s ${text(outlet)}`)
    return said('whole', text(here) === text(outlet) ? 'its outlet’s' : `${text(here)}, not smaller than its outlet’s`)
  },
  words: () => 'not smaller than its outlet’s',
}
