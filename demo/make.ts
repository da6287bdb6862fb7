import { fork } from 'node:child_process'
import { existsSync } from 'node:fs'
import { mkdir, readdir, rename, rm, writeFile } from 'node:fs/promises'
import path from 'node:path'
import { machineCodecs } from '../engine/worker/codecs'
import { Session } from '../engine/session'
import { almanacReel, bulletinReel } from './almanac'
import { bulletinPath, reelPath, setDesk } from './desk'
import { makeRadio, radioPath } from './radio'
import { makeReel, reelEdl, type ReelPlan } from './reel'

/** Raised when the demo's data should be made anew. */
const edition = '12'

/** Makes the media, once: written under another name and renamed, so that an interrupted start begins again. */
async function makeMedia(file: string, plan: ReelPlan, title: string, say: (text: string) => void): Promise<void> {
  if (existsSync(file)) return
  await mkdir(path.dirname(file), { recursive: true })
  const total = plan.shots.reduce((n, s) => n + s.frames, 0)
  await makeReel(`${file}.part`, plan, machineCodecs(), (n) => {
    if (n % 100 === 0) say(`  drawing ${title}: frame ${n} of ${total}`)
  })
  await writeFile(file.replace(/\.[^.]+$/, '.edl'), reelEdl(plan, title.toUpperCase()))
  await rename(`${file}.part`, file)
}

/** A demo of another edition is made anew: what was made by the demo goes, what was delivered or dropped stays. */
async function clearOld(folder: string): Promise<void> {
  const old = existsSync(folder) ? (await readdir(folder)).filter((n) => n.startsWith('edition-')) : []
  if (old.length === 0) return
  console.log(
    '  the demo is of an older edition: its reels and its desk are made anew; deliveries and dropped files stay',
  )
  for (const n of ['data', 'storage/The Ferry Almanac', 'storage/Harbour Bulletins', ...old])
    await rm(path.join(folder, n), { recursive: true, force: true })
}

/** The demo world of the Ferry Almanac: reels with planted faults, outlets, and a desk with work in progress. */
async function makeDemo(folder: string, only: string | undefined): Promise<void> {
  const marker = path.join(folder, `edition-${edition}`)
  if (existsSync(marker)) return
  if (!only) await clearOld(folder)
  if (!machineCodecs()) {
    console.error(
      'The demo draws and encodes its own reels, for which this machine lacks the codec package ' +
        '(@napi-rs/webcodecs). Run npm install with optional packages and start again.',
    )
    process.exit(1)
  }
  const say = (text: string) => console.log(text)
  const storage = path.join(folder, 'storage')
  const almanac = almanacReel()
  const harbour = bulletinReel()
  if (only === 'bulletins') {
    await makeRadio(path.join(storage, radioPath), harbour)
    return makeMedia(path.join(storage, bulletinPath), harbour.plan, 'Harbour bulletins', say)
  }
  // the second reel is drawn by a process of its own, at the same time
  const other = fork(process.argv[1]!, [folder, 'bulletins'])
  const otherDone = new Promise<void>((resolve, reject) =>
    other.on('exit', (code) => (code === 0 ? resolve() : reject(new Error('The second reel could not be made.')))),
  )
  await makeMedia(path.join(storage, reelPath), almanac.plan, 'Almanac reel one', say)
  await otherDone
  const engine = await Session.open({ data: path.join(folder, 'data'), roots: [storage], workers: 0 })
  if ((await engine.timelines.list()).length === 0) await setDesk(engine, storage, almanac, harbour)
  await engine.close()
  await writeFile(marker, '')
}

await makeDemo(path.resolve(process.argv[2] ?? path.join('.velvet', 'demo')), process.argv[3])
process.exit(0)
