import { classWith } from '../codec/h264-intra/class'
import { fail } from '../problem'
import type { Basis } from './output'
import { mxfMaster } from './mxfmaster'

/** The shape of pixels of a class; another class has pictures of other widths. */
function shapeOfClass(name: number, { width }: Basis): { pixelAspect: string } {
  const of = classWith(width)
  if (of && of.name !== name)
    fail(
      'recipe.class',
      `Pictures of ${width} samples a line are class ${of.name}, not class ${name}.`,
      undefined,
      `Use a recipe for class ${of.name}, or another width.`,
    )
  return { pixelAspect: of?.pixelAspect ?? '1:1' }
}

const common = {
  settings: ['width', 'height', 'sampleRate', 'lineUp'],
  codec: 'h264-intra',
  tracks: (channels: number) => channels,
} as const

/** An MXF master of 10-bit 4:2:2 intra pictures, class 100, a track for each channel. */
export const broadcast = mxfMaster({
  ...common,
  kind: 'broadcast',
  label: 'MXF, H.264 intra class 100, PCM 24 bit',
  shipped: { id: 'broadcast', name: 'Broadcast master' },
  shape: (b) => shapeOfClass(100, b),
})

/** The same of class 50: 4:2:0, and three quarters of the samples in a line. */
export const broadcast50 = mxfMaster({
  ...common,
  kind: 'broadcast-50',
  label: 'MXF, H.264 intra class 50, PCM 24 bit',
  shipped: { id: 'broadcast-50', name: 'Broadcast master, class 50', width: 1440, height: 1080 },
  shape: (b) => shapeOfClass(50, b),
})
