import { expect, it } from 'vitest'
import { concatBytes, memorySource, Reader, Writer } from '../../bytes'
import { makeRate } from '../../time/rate'
import { innerBoxes } from './boxes'
import { tmcdEntry } from './entrywriter'
import { readTimecodes } from './sidetracks'
import type { Trak } from './trak'

const box = (type: string, body: Writer) => {
  const bytes = body.bytes()
  return concatBytes([
    new Writer()
      .u32(8 + bytes.length)
      .raw(Buffer.from(type))
      .bytes(),
    bytes,
  ])
}
const entry = new Writer().u32(0).u32(0).u32(0).u32(0).u32(25).u32(1).u8(25).u8(0)

type Samples = readonly (readonly [lasts: number, says: number])[]

const bare = {
  ...{ id: 1, timescale: 25, edits: [], stsdVersion: 0, chapterTracks: [], timecodeTracks: [] },
  ...{ off: false, placing: [1, 0, 0, 1] as const, width: 0, height: 0, describedAnew: false, elsewhere: false },
}
const pictures = (more: Partial<Trak> = {}): Trak => ({
  ...bare,
  id: 9,
  kind: 'vide',
  stbl: [],
  entry: undefined,
  ...more,
})

/** A timecode track of 25 frames a second whose samples last so long and say so many frames, from an offset on. */
function clock(
  samples: Samples,
  more: Partial<Trak> = {},
  offset = 0,
  promised = samples.length,
  described = entry,
): Trak {
  const stsz = new Writer().u32(0).u32(4).u32(promised)
  const stco = new Writer().u32(0).u32(1).u32(offset)
  const stsc = new Writer().u32(0).u32(1).u32(1).u32(samples.length).u32(1)
  const stts = new Writer().u32(0).u32(samples.length)
  for (const [lasts] of samples) stts.u32(1).u32(lasts)
  const tables = [box('stts', stts), box('stsz', stsz), box('stco', stco), box('stsc', stsc)]
  return {
    ...{ ...bare, kind: 'tmcd' },
    stbl: innerBoxes(new Reader(concatBytes(tables), 'file.mov')),
    entry: { type: 'tmcd', data: new Reader(described.bytes(), 'file.mov'), whole: new Uint8Array() },
    ...more,
  }
}

/** Ticks a second of the movie. */
const movieScale = 1000

function read(traks: readonly Trak[], samples: Samples) {
  const data = new Writer()
  for (const [, says] of samples) data.u32(says)
  return readTimecodes(traks, movieScale, memorySource(data.bytes(), 'file.mov'))
}

async function track(samples: Samples, promised = samples.length, described = entry) {
  const [timecode] = await read([clock(samples, {}, 0, promised, described)], samples)
  return timecode
}

it('a timecode track is followed from sample to sample', async () => {
  expect(await track([[100, 900_000]])).toMatchObject({ start: '10:00:00:00', jumps: [] })
  const each = Array.from({ length: 50 }, (_, i) => [1, 900_000 + i] as const)
  expect((await track(each))!.jumps).toEqual([])
  const twice = [[40, 900_000] as const, [10, 900_050] as const, [10, 900_060] as const, [5, 10] as const]
  expect((await track(twice))!.jumps).toEqual([
    { at: 40, count: 900_050 },
    { at: 60, count: 10 },
  ])
})

it('what of it is presented is told by its edits, and those of the pictures', async () => {
  const jumping: Samples = [
    [40, 900_000],
    [60, 5000],
  ]
  const edited = async (edits: Trak['edits'], own: Trak['edits'] = []) => {
    const [t] = await read([pictures({ edits: own }), clock(jumping, { edits })], jumping)
    return [t!.startFrames, t!.jumps]
  }
  const edit = (duration: number, mediaTime: number) => ({ duration, mediaTime, speed: 1 })
  // a second and a half is left out in front, in ticks of the track
  expect(await edited([edit(2000, 15)])).toEqual([900_015, [{ at: 25, count: 5000 }]])
  expect(await edited([edit(2000, 45)])).toEqual([5005, []])
  // the end comes first
  expect(await edited([edit(400, 90), edit(1000, 0)])).toEqual([5050, [{ at: 10, count: 900_000 }]])
  // it begins a second after the pictures, or with them after a second of nothing
  expect(await edited([edit(1000, -1), edit(4000, 0)])).toEqual([899_975, [{ at: 65, count: 5000 }]])
  expect(await edited([edit(1000, -1), edit(4000, 0)], [edit(1000, -1), edit(4000, 0)])).toEqual([
    ...[900_000, [{ at: 40, count: 5000 }]],
  ])
  // the pictures begin a second after it
  expect(await edited([], [edit(1000, -1), edit(4000, 0)])).toEqual([900_025, [{ at: 15, count: 5000 }]])
})

it('of several tracks that of the pictures comes first', async () => {
  const samples: Samples = [
    [100, 900_000],
    [100, 5000],
  ]
  const clocks = [clock(samples.slice(0, 1), { id: 2 }), clock(samples.slice(1), { id: 3 }, 4)]
  const startsBy = async (...timecodeTracks: number[]) =>
    (await read([...clocks, pictures({ timecodeTracks })], samples)).map((t) => t.startFrames)
  expect(await startsBy()).toEqual([900_000, 5000])
  expect(await startsBy(2)).toEqual([900_000, 5000])
  expect(await startsBy(3)).toEqual([5000, 900_000])
})

it('one that cannot be followed still tells its start', async () => {
  const [broken, endless] = [await track([[1, 900_000]], 40), await track([[1, 900_000]], 0x7fffffff)]
  for (const t of [broken, endless]) {
    expect(t!.start).toBe('10:00:00:00')
    expect(t).not.toHaveProperty('jumps')
  }
})

it('a timecode tells which recording it counts, where it says so', () => {
  const reelOf = async (...boxes: Uint8Array[]) => {
    const own = new Writer().raw(entry.bytes())
    for (const b of boxes) own.raw(b)
    return (await track([[100, 900_000]], 1, own))?.reel
  }
  const name = (text: string, says = text.length) => box('name', new Writer().u16(says).u16(0).raw(Buffer.from(text)))
  const other = box('abcd', new Writer().u32(7))
  return Promise.all([
    expect(reelOf()).resolves.toBeUndefined(),
    expect(reelOf(name('CARD 07'))).resolves.toBe('CARD 07'),
    expect(reelOf(other, name('CARD 07\0'))).resolves.toBe('CARD 07'),
    expect(reelOf(name('CARD', 900))).resolves.toBe('CARD'),
    expect(reelOf(new Writer().u32(9000).u32(1).bytes())).resolves.toBeUndefined(),
    // as it is written here
    expect(reelOf(tmcdEntry(makeRate(25), false, 'KÖNIG 3').subarray(8 + 26))).resolves.toBe('KÖNIG 3'),
    expect(reelOf(tmcdEntry(makeRate(25), false).subarray(8 + 26))).resolves.toBeUndefined(),
  ])
})
