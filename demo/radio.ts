import { existsSync } from 'node:fs'
import { mkdir, rename, writeFile } from 'node:fs/promises'
import path from 'node:path'
import { encodePcm } from '../core/codec/pcm/pcm'
import { wavHead } from '../core/container/wav/write'
import { sampleAtFrame } from '../core/time/samples'
import type { bulletinReel } from './almanac'

/** Where the radio mix lies below the demo's storage. */
export const radioPath = 'Harbour Bulletins/Bulletins_Radio_48.wav'

const sampleRate = 48000

/** The sound of the bulletins alone, for radio: a 24-bit wave file whose cue points are where each bulletin begins. */
export async function makeRadio(file: string, { plan, ranges }: ReturnType<typeof bulletinReel>): Promise<void> {
  if (existsSync(file)) return
  await mkdir(path.dirname(file), { recursive: true })
  const head = wavHead({
    channels: plan.channels.length,
    sampleRate,
    bitDepth: 24,
    samples: plan.channels[0]!.length,
    cues: [...ranges].map(([name, r]) => ({ at: sampleAtFrame(r.in, plan.rate, sampleRate), name })),
    bext: {
      description: 'Harbour Bulletins: radio mix',
      originator: 'Quayhouse Post',
      originatorReference: 'HB-RADIO',
      date: '2026-03-02',
      time: '06:00:00',
      timeReference: sampleAtFrame(plan.start, plan.rate, sampleRate),
      loudness: null,
      history: '',
    },
  })
  await writeFile(`${file}.part`, Buffer.concat([head, encodePcm(plan.channels, 24, true)]))
  await rename(`${file}.part`, file)
}
