import { colourText } from '../media/colour'
import { scanText } from '../media/scan'
import { rateLabel } from '../time/rate'
import type { PictureDescription, SoundDescription } from './codec'

type Fields = { readonly name: string; readonly value: string }[]

const fieldsOf = (list: Readonly<Record<string, string | number | null | undefined>>): Fields =>
  Object.entries(list).flatMap(([name, v]) => (v === null || v === undefined ? [] : [{ name, value: String(v) }]))

/** What a configuration says of pictures, in words, for who looks into a file. */
export const pictureFields = (d: PictureDescription): Fields =>
  fieldsOf({
    profile: d.profile,
    level: d.level,
    raster: d.width && d.height ? `${d.width}×${d.height}` : null,
    scan: d.scan && scanText(d.scan),
    chroma: d.chroma,
    bits: d.bitDepth,
    'pixel aspect': d.pixelAspect,
    colour: d.colour && colourText(d.colour),
    rate: d.timing && rateLabel(d.timing),
  })

/** The same of sound. */
export const soundFields = (d: SoundDescription): Fields =>
  fieldsOf({
    channels: d.channels,
    'sample rate': d.sampleRate && `${d.sampleRate} Hz`,
    bits: d.bitDepth,
    'samples of a packet': d.packetSamples,
  })
