import { fail } from '../../problem'
import { common } from '../../time/range'
import { findHead } from '../../analysis/head'
import { withSettings, type SplitMaker } from './maker'
import { blackOf, silenceOf } from './measured'
import { partsBetween } from './pauses'
import { choice, secondsOf } from '../settings'

/** The programme after line-up and clock, whole or in its parts. */
export const programme: SplitMaker = withSettings({
  name: 'programme',
  label: 'the programme after line-up',
  hint: 'What follows line-up (tone, a still picture) and clock at the head, and its parts between breaks.',
  settings: {
    as: choice('Of what follows', [
      ['parts', 'its parts'],
      ['whole', 'one region'],
    ]),
    least: { kind: 'length', label: 'A break is black and silent for at least', initial: secondsOf(1), least: 1 },
    shortest: { kind: 'length', label: 'Leave out what is shorter than', initial: secondsOf(1), least: 1 },
  },
  names: 'Part {number}',
  needs: () => ['pictures', 'sound'],
  make(request, { as, ...pause }) {
    const { timeline: t, pictures, sound, mute } = request
    const black = blackOf(request)
    const silence = mute ? [] : silenceOf(request)
    const found =
      findHead({
        ...{ rate: t.rate, length: t.length, black, silence },
        freeze: pictures?.freeze ?? [],
        momentary: mute ? null : (sound?.momentary ?? null),
      }) ??
      fail(
        'split.no-line-up',
        'No line-up with black after it was found at the head.',
        t.name,
        'Line-up is a tone or a still picture of two seconds or more, near the head; choose another way to split.',
      )
    const whole = { in: found.programme, out: t.length }
    if (as === 'whole') return [{ ...whole, name: t.name, kind: 'programme' }]
    const breaks = mute ? black : common(black, silence)
    return partsBetween(whole, breaks, pause).map((r) => ({ ...r, kind: 'part' }))
  },
})
