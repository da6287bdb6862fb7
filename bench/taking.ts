import { mkdir } from 'node:fs/promises'
import path from 'node:path'
import { makeRate } from '../core/time/rate'
import { makeReel } from '../demo/reel'
import { machineCodecs } from '../engine/worker/codecs'
import { partsText, station, worked } from './copying'

const seconds = 40

/**
 * New sound under the pictures of a proven file, against making that file: a broadcast master and a viewing copy, each
 * proven.
 */
export async function taking(folder: string, print: (name: string, figures: string) => void): Promise<void> {
  await mkdir(folder)
  const shots = [{ scene: 'bell' as const, frames: seconds * 25, name: 'bell', reel: 'BELL', clean: true }]
  const sound = Float32Array.from({ length: seconds * 48000 }, (_, i) => 0.2 * Math.sin(i / 15))
  const plan = { width: 1920, height: 1080, rate: makeRate(25), dropFrame: false, start: 0, shots, bitrate: 6_000_000 }
  const coded = { pictures: 'h264', sound: 'pcm', container: 'mov', channels: [sound, sound] } as const
  await makeReel(path.join(folder, 'reel.mov'), { ...plan, ...coded }, machineCodecs())
  for (const kind of ['broadcast', 'viewing']) {
    const session = await station(folder, 2, [kind], 'reel.mov')
    const made = await worked(session, 2)
    const { outlets } = await session.outlets.all()
    const [outlet] = outlets
    await session.outlets.save({ ...outlet!, recipe: { ...outlet!.recipe, gain: -3 } })
    const taken = await worked(session, 2)
    await session.close()
    const what = kind === 'broadcast' ? 'class 100 master' : 'viewing copy'
    const parts = `making it ${made.all.toFixed(1)} s; ${partsText(taken.steps)}`
    print(
      `new sound under the pictures of a ${what}, proven, workers: 2`,
      `${(made.all / taken.all).toFixed(1)} × as fast as making it (${parts})`,
    )
  }
}
