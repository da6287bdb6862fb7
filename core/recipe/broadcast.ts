import { mxfMaster } from './mxfmaster'

/** An MXF master of 10-bit 4:2:2 intra pictures, class 100, a track for each channel. */
export const broadcast = mxfMaster({
  kind: 'broadcast',
  label: 'MXF, H.264 intra class 100, PCM 24 bit',
  settings: ['width', 'height', 'sampleRate', 'lineUp'],
  shipped: { id: 'broadcast', name: 'Broadcast master' },
  codec: 'h264-intra',
  tracks: (channels) => channels,
})
