import { hasFields } from '../media/scan'
import { layoutOf, saidLayout } from '../sound/layout'
import { basisOf, encodedAs, needDecodedPictures, needDecodedSound, needEncoder, needPictures } from './output'
import type { RecipeKind, Step } from './recipe'
import { segmentSteps } from './segments'
import { burnInSettings, plainSettings } from './settings'
import { pictureKilobits } from './trial'

/** An H.264 and AAC copy in MP4 for looking at. */
export const viewing: RecipeKind = {
  kind: 'viewing',
  label: 'MP4, H.264 and AAC',
  settings: [
    'width',
    'height',
    'fit',
    'scaler',
    'colour',
    'table',
    'trial',
    'pictureDither',
    'pictureBitrate',
    'channels',
    'downmix',
    'gain',
    'sampleRate',
    'soundBitrate',
    'start',
    'handles',
    ...burnInSettings,
    'proofSpread',
    'contactSheet',
  ],
  shipped: {
    ...plainSettings,
    id: 'viewing',
    name: 'Viewing copy',
    kind: 'viewing',
    container: 'mp4',
    width: 1280,
    height: 720,
    channels: [1, 2],
  },
  copies: false,
  encodes: ['h264', 'aac'],
  output(request) {
    const { settings, abilities } = request
    const b = basisOf(request, { mute: true })
    const { audio: a, problems, route, written } = b
    needPictures(b)
    needDecodedPictures(b, abilities)
    needDecodedSound(b, request.source, abilities)
    needEncoder(b, 'h264', abilities, 'use another recipe')
    if (written.channels) needEncoder(b, 'aac', abilities, 'set the sound to none')
    if (![0, 1, 2, 6].includes(written.channels))
      problems.push({
        code: 'recipe.channel',
        message: `A viewing copy has 1, 2 or 6 sound channels, not ${written.channels}.`,
        fix: 'Choose other channels.',
      })
    const layout = saidLayout(request.source.audio, route)
    if (written.channels === 6 && layout !== null && layout !== layoutOf(6))
      problems.push({
        code: 'recipe.channel',
        message: `AAC of six channels has them as ${layoutOf(6)}; these are ${layout}.`,
        fix: 'Choose them in that order.',
      })
    const bitrate = pictureKilobits(settings) * 1000
    const bits = bitrate + (written.channels ? settings.soundBitrate * 1000 : 0)
    const size = { width: b.width, height: b.height }
    const notes = [
      ...(b.shared.notes ?? []),
      ...(b.video && hasFields(b.video.scan) ? ['Its fields are joined: the file is progressive.'] : []),
      ...(written.channels === 6 ? ['AAC keeps of channel 4, the LFE, only what lies below 280 Hz.'] : []),
    ]
    return {
      ...b.shared,
      ...(notes.length ? { notes } : {}),
      container: 'mp4',
      video: b.picture && {
        ...encodedAs('h264', { ...size, rate: b.picture.rate, scan: 'progressive', bitrate }),
        ...{ ...size, ...b.picture, scan: 'progressive' },
      },
      audio:
        written.channels && a
          ? { codec: 'aac', ...written, sampleRate: b.sampleRate, bitDepth: 16, layout: null }
          : null,
      bytes: Math.ceil((b.seconds * bits) / 8) + 20_000,
    }
  },
  steps(request) {
    const { range, reading, output } = request
    const parts = segmentSteps('encode-segment', request, [...reading.pictures, 'encode:h264'])
    const sound: Step[] = output.audio
      ? [{ key: 'sound', kind: 'encode-sound', needs: [], range, abilities: [...reading.sound, 'encode:aac'] }]
      : []
    const needs = [...parts, ...sound].map((p) => p.key)
    return [...parts, ...sound, { key: 'join', kind: 'join', needs, range, abilities: [] }]
  },
}
