import { mkdir } from 'node:fs/promises'
import path from 'node:path'
import type { DeliverableKey, Outlet } from '../core/deliverable/outlet'
import { makeRate } from '../core/time/rate'
import { makeReel } from '../demo/reel'
import type { Session } from '../engine/session'
import { machineCodecs } from '../engine/worker/codecs'
import { partsText, station, worked, type Night } from './copying'

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
    const three = await threeOutlets(session, outlet!)
    await session.close()
    const what = kind === 'broadcast' ? 'class 100 master' : 'viewing copy'
    const parts = `making it ${made.all.toFixed(1)} s; ${partsText(taken.steps)}`
    print(
      `new sound under the pictures of a ${what}, proven, workers: 2`,
      `${(made.all / taken.all).toFixed(1)} × as fast as making it (${parts})`,
    )
    print(
      `the same ${what} for three outlets of other sound, proven, workers: 2`,
      `${(three.all / made.all).toFixed(2)} × one of them (${three.all.toFixed(1)} s; ${partsText(three.steps)})`,
    )
  }
}

/** A night in which two more outlets take the pictures of the first, each with another level. */
async function threeOutlets(session: Session, first: Outlet): Promise<Night> {
  const [{ timelineId, regionId }] = (await session.nights.judged()).map((d) => d.draft.key) as [DeliverableKey]
  const recipe = { ...first.recipe, scaler: 'mitchell' as const }
  for (const [n, id] of ['a', 'b', 'c'].entries()) {
    await session.outlets.save({ ...first, id, name: id, folder: `out/${id}`, recipe: { ...recipe, gain: -n } })
    await session.outlets.choose([{ timelineId, regionId, outletId: id }], true)
  }
  return worked(session, 2)
}
