import { aes3Bytes } from '../codec/pcm/aes3'
import { fail } from '../problem'
import { shapeOf } from '../media/aspect'
import { mxfMaster } from './mxfmaster'

/** An MXF master of MPEG-2 pictures that stand alone, 4:2:2 profile at high level, a track for each channel. */
export const mpeg2 = mxfMaster({
  kind: 'mpeg2',
  label: 'MXF, MPEG-2 4:2:2 intra, PCM 24 bit',
  settings: ['width', 'height', 'pictureBitrate', 'pictureDither', 'sampleRate', 'lineUp'],
  shipped: { id: 'mpeg2', name: 'MPEG-2 master', pictureBitrate: 100_000 },
  codec: 'mpeg2',
  tracks: (channels) => channels,
  shape(b) {
    if (b.height === 576) fail('mpeg2.form', 'Pictures of 576 lines are D-10.', undefined, 'Use a recipe for D-10.')
    return {}
  },
})

/** How wide pictures are that are nearer to 4:3 than to 16:9. */
const between = 1.55

/** A D-10 file: MPEG-2 of 720×576 in two fields at 50 Mbit/s, up to eight channels of sound in one element. */
export const d10 = mxfMaster({
  kind: 'd10',
  label: 'MXF D-10, MPEG-2 720×576, AES3 24 bit',
  settings: ['pictureBitrate', 'pictureDither', 'lineUp'],
  shipped: { id: 'd10', name: 'D-10 master', width: 720, height: 576, pictureBitrate: 50_000, colour: 'bt601-625' },
  codec: 'mpeg2',
  tracks: () => 1,
  soundBytes: aes3Bytes,
  noLines: true,
  shape({ written, problems, video }) {
    if (written.channels > 8)
      problems.push({
        code: 'recipe.channel',
        message: `D-10 has up to eight sound channels, not ${written.channels}.`,
        fix: 'Choose other channels.',
      })
    return { pixelAspect: shapeOf(video ?? null) < between ? '16:15' : '64:45' }
  },
})
