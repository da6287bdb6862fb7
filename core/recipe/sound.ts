import { basisOf, needDecodedSound } from './output'
import { plainSettings } from './settings'
import type { RecipeKind } from './recipe'
import { inSections } from './sections'

/** Sound alone, as broadcast wave. */
export const sound: RecipeKind = {
  kind: 'sound',
  label: 'broadcast wave, 24 bit',
  settings: [
    'channels',
    'downmix',
    'gain',
    'sampleRate',
    'soundDepth',
    'dither',
    'start',
    'lineUp',
    'breaks',
    'handles',
  ],
  shipped: { ...plainSettings, id: 'sound', name: 'Sound', kind: 'sound', container: 'wav' },
  copies: false,
  encodes: [],
  output(request) {
    const { settings } = request
    const own = inSections(request)
    const b = basisOf(request, { sections: own.sections })
    const { audio: a, written, problems } = b
    problems.push(...own.problems)
    needDecodedSound(b, request.source, request.abilities)
    if (!a || written.channels === 0)
      problems.push({
        code: 'recipe.no-sound',
        message: 'There is no sound to write.',
        fix: 'Choose channels that the source has.',
      })
    const bytes = b.shared.samples * written.channels * (settings.soundDepth / 8) + 1024
    return {
      ...b.shared,
      ...(own.notes.length ? { notes: [...(b.shared.notes ?? []), ...own.notes] } : {}),
      container: bytes > 0xffffffff ? 'rf64' : 'wav',
      video: null,
      audio: a
        ? {
            codec: 'pcm',
            ...written,
            sampleRate: b.sampleRate,
            bitDepth: settings.soundDepth,
          }
        : null,
      bytes,
      bytesOff: 100_000,
    }
  },
  steps: ({ range, reading }) => [
    { key: 'sound', kind: 'write-sound', needs: [], range, abilities: [...reading.sound] },
  ],
}
