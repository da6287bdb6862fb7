import { v210Size } from '../codec/v210/v210'
import { basisOf, encodedAs, needDecodedPictures, needDepth, needDecodedSound, needPictures } from './output'
import { burnInSettings, plainSettings } from './settings'
import type { RecipeKind } from './recipe'
import { inSections, sayLineUp } from './sections'
import { lineUpSteps, segmentSteps } from './segments'

/** An uncompressed 10-bit 4:2:2 MOV with 24-bit PCM. */
export const master: RecipeKind = {
  kind: 'master',
  label: 'MOV, 4:2:2 10 bit uncompressed, PCM 24 bit',
  settings: [
    ...(['width', 'height', 'fit', 'scaler', 'colour', 'table', 'trial', 'channels', 'downmix', 'gain'] as const),
    ...(['sampleRate', 'start', 'lineUp', 'breaks', 'handles'] as const),
    ...burnInSettings,
    'contactSheet',
  ],
  shipped: { ...plainSettings, id: 'master', name: 'Uncompressed master', kind: 'master' },
  copies: false,
  finished: true,
  encodes: ['v210'],
  output(request) {
    const { sections, problems, notes } = inSections(request)
    const b = basisOf(request, { mute: true, sections })
    b.problems.push(...problems)
    const { audio: a, written, width, height } = b
    needPictures(b)
    needDecodedPictures(b, request.abilities)
    needDepth(b)
    needDecodedSound(b, request.source, request.abilities)
    sayLineUp(b, request)
    const { frames, samples } = b.shared
    return {
      ...b.shared,
      ...(notes.length ? { notes: [...(b.shared.notes ?? []), ...notes] } : {}),
      container: 'mov',
      video: b.picture && {
        ...encodedAs('v210', { width, height, ...b.picture }),
        ...{ width, height, ...b.picture, pictureBytes: v210Size(width, height) },
        // a MOV cannot say that a frame is sent as two fields
        ...(b.picture.scan === 'segmented' ? { scan: 'progressive' as const } : {}),
      },
      audio:
        written.channels && a
          ? {
              codec: 'pcm',
              ...written,
              sampleRate: b.sampleRate,
              bitDepth: 24,
            }
          : null,
      bytes: v210Size(width, height) * frames + samples * written.channels * 3 + 20_000,
      bytesOff: 100_000 + frames * 40,
    }
  },
  // segments of uncompressed pictures have their place in the file from the start: there is nothing to join
  steps: (request) => [
    ...lineUpSteps(request),
    ...segmentSteps('encode-in-place', request, [...request.reading.pictures, ...request.reading.sound]),
  ],
}
