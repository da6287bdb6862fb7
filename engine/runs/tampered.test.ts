import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, afterEach, beforeAll, expect, it } from 'vitest'
import { lookSize } from '../../core/picture/look'
import type { Media } from '../../core/media/media'
import type { Recipe } from '../../core/recipe/recipe'
import { deliver, recipe, scratchFolder, smallReel, testEngine } from '../../tests/fixtures'
import type { Session } from '../session'
import { openMediaFile } from '../storage/mediafile'
import type { MadeStills } from '../worker/making/stillfiles'
import type { InPlace } from '../worker/steps/encodeinplace'
import { deliverableSteps } from '../worker/steps/registry'

// Files that come out otherwise than they were made, between the last step and the proof: none of them may pass.

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
let engine: Session
const proofs = { ...deliverableSteps }

beforeAll(async () => {
  mkdirSync(storage, { recursive: true })
  await smallReel(path.join(storage, 'reel.mov'))
  engine = await testEngine(folder)
})
afterEach(() => void Object.assign(deliverableSteps, proofs))
afterAll(async () => {
  await engine.close()
  remove()
})

type Fault = (bytes: Buffer, media: Media) => void

/** Delivers two seconds by a recipe, the file changed before it is proven; what became of it. */
async function delivered(name: string, by: Recipe, fault: Fault) {
  for (const kind of ['prove', 'prove-spread'])
    deliverableSteps[kind] = async (step) => {
      const [{ file }] = [...step.needed.values()] as [{ readonly file: string }]
      const full = path.join(step.folder, file)
      const bytes = readFileSync(full)
      const opened = await openMediaFile(full, name)
      fault(bytes, opened.media!)
      await opened.close()
      writeFileSync(full, bytes)
      return proofs[kind]!(step)
    }
  const made = await deliver(engine, { name, file: 'reel.mov', range: { in: 25, out: 75 }, by })
  return [made.state, made.problem?.message ?? null] as const
}

/** Samples of all channels of a track of PCM, from one on: where they are, and as many bytes as each time has. */
const pcmAt = ({ audio: [track] }: Media, at: number) => ({
  offset: track!.run(at).offset,
  size: track!.pcm!.bytesPerSample * track!.pcm!.channels,
})

it.each<[what: string, by: () => Recipe, fault: Fault, why: string]>([
  [
    'a picture twice, in the place of the next',
    () => recipe('master', { channels: [1, 2] }),
    (bytes, { video: [track] }) => {
      const [a, b] = [track!.sample(30), track!.sample(31)]
      bytes.copy(bytes, b.offset, a.offset, a.offset + a.size)
    },
    'Coded picture 32 of the file is damaged: it is not what was encoded.',
  ],
  [
    'one bit of a picture',
    () => recipe('broadcast', { scan: 'source', channels: [1, 2] }),
    (bytes, { video: [track] }) => void (bytes[track!.sample(20).offset + 9000]! ^= 4),
    'Coded picture 21 of the file is damaged: it is not what was encoded.',
  ],
  [
    'sound that begins a frame late',
    () => recipe('sound', { channels: [1, 2] }),
    (bytes, media) => {
      const { offset, size } = pcmAt(media, 0)
      bytes.copyWithin(offset + 1920 * size, offset, offset + (96000 - 1920) * size)
    },
    'Sound in place is 40.0 ms late; required: the timeline’s own.',
  ],
  [
    'channels in each other’s place',
    () => recipe('sound', { channels: [1, 2] }),
    (bytes, media) => {
      const { offset, size } = pcmAt(media, 0)
      const half = size / 2
      for (let at = offset; at < offset + 96000 * size; at += size) {
        const first = Buffer.from(bytes.subarray(at, at + half))
        bytes.copy(bytes, at, at + half, at + size)
        first.copy(bytes, at + half)
      }
    },
    'channel 1 has what belongs in channel 2',
  ],
  [
    'another time of day',
    () => recipe('sound', { channels: [1, 2] }),
    (bytes) => {
      // the time reference of `bext` (EBU Tech 3285), in samples
      const at = bytes.indexOf('bext') + 8 + 338
      bytes.writeUInt32LE(bytes.readUInt32LE(at) + 48_000, at)
    },
    'The file is not what was asked for: start timecode 10:01:01:00, asked for was 10:01:00:00.',
  ],
  [
    'pictures said to be half as fast',
    () => recipe('viewing', { channels: [1, 2] }),
    (bytes, { video: [track] }) => {
      const at = bytes.indexOf('mdhd') + 4
      const scale = bytes.indexOf(Buffer.from([0, 0, 0, track!.timescale]), at)
      bytes.writeUInt32BE(track!.timescale * 2, scale)
    },
    'frame rate 50, asked for was 25',
  ],
  [
    'one sample',
    () => recipe('master', { channels: [1, 2] }),
    (bytes, media) => void (bytes[pcmAt(media, 60_000).offset + 1]! ^= 1),
    'Sound in place is not the timeline’s own in channel 1, 1.2 s to 1.3 s; required: the timeline’s own.',
  ],
  [
    'coded sound by a packet late: what was put before it is heard',
    () => recipe('viewing', { channels: [1, 2] }),
    (bytes) => {
      // the second edit list is that of the sound: version 1, one entry
      const at = bytes.indexOf('elst', bytes.indexOf('elst') + 4)
      const media = at + 24
      expect(bytes.readInt32BE(media)).toBe(1024)
      bytes.writeInt32BE(0, media)
    },
    'Sound in place is 21.3 ms late; required: the timeline’s own.',
  ],
])('%s', async (what, by, fault, why) => {
  const [state, problem] = await delivered(what.replace(/[^a-z]/g, '').slice(0, 20), by(), fault)
  expect(state).toBe('failed')
  expect(problem).toContain(why)
})

it.each([
  [
    'a still that is not the picture it was made of',
    (look: Buffer) => look.fill(look[0]! ^ 64),
    'A picture of the file is not what was encoded',
    'sequence',
  ],
  [
    'a master of which a small part is not what it was made of',
    (look: Buffer) => (look[500]! ^= 64),
    'A part of a picture of the file is not what was encoded (difference 64.0; at most 32).',
    'master',
  ],
])('%s', async (what, damage, why, kind) => {
  deliverableSteps.prove = async (step) => {
    const [{ looks, part }] = [...step.needed.values()] as [Partial<MadeStills & InPlace>]
    const full = path.join(step.folder, looks ?? part!.looks[0]!)
    // of the seventh picture, between those of each second, another was made
    const bytes = readFileSync(full)
    const at = 7 * (4 + lookSize)
    expect(bytes.readUInt32BE(at)).toBe(7)
    damage(bytes.subarray(at + 4, at + 4 + lookSize))
    writeFileSync(full, bytes)
    return proofs.prove!(step)
  }
  const by = recipe(kind, { stillFormat: 'dpx-10' })
  const made = await deliver(engine, {
    name: what.replace(/[^a-z]/g, '').slice(0, 20),
    file: 'reel.mov',
    range: { in: 25, out: 75 },
    by,
  })
  expect([made.state, made.problem?.message]).toEqual(['failed', expect.stringContaining(why)])
})
