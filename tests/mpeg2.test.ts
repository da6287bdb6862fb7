import { execFileSync, spawnSync } from 'node:child_process'
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, describe, expect, it } from 'vitest'
import { openPictures } from '../core/codec/pictures'
import { Mpeg2Decoder } from '../core/codec/mpeg2/decode'
import { describeMpeg2 } from '../core/codec/mpeg2/describe'
import { StreamFault } from '../core/codec/mpeg2/bits'
import { kindOf, partsOf, pictureHead, starts } from '../core/codec/mpeg2/headers'
import { mp4 } from '../core/container/mp4/container'
import { openMedia } from '../core/container/registry'
import { fill, klv } from '../core/container/mxf/klv'
import { keys } from '../core/container/mxf/labels'
import { value } from '../core/container/mxf/sets'
import { tags, type Property } from '../core/container/mxf/tags'
import { layUnits } from '../core/container/mxf/write'
import { memorySource, Writer } from '../core/bytes'
import { bt709 } from '../core/media/colour'
import { makeRate } from '../core/time/rate'
import type { Picture } from '../core/picture/picture'
import { kernel, type Kernel } from '../core/kernel/kernel'
import { noise } from '../core/kernel/noise'
import { openFile } from '../engine/storage/disk'
import { deliver, drain, latestRun, outlet, recipe, scratchFolder, testEngine } from './fixtures'
import { randomStream } from './mpeg2random'
import { plainStream, type Paint, type StreamShape } from './mpeg2streams'
import { mutate, seeded } from './mutate'

// MPEG-2 as others code it, against what libmpeg2 makes of it.

const { folder, remove } = scratchFolder()
afterAll(remove)
const has = (tool: string) => spawnSync(tool, ['--version']).error === undefined
const [width, height, frames] = [208, 160, 14]

/** Texture that moves, also from field to field, and colours that move the other way: YUV4MPEG2 of 4:2:0. */
function moving(interlaced: boolean): Buffer {
  const grain = noise(new Uint8Array(4 * width * height), 24, 3)
  const parts: Buffer[] = [
    Buffer.from(`YUV4MPEG2 W${width} H${height} F25:1 I${interlaced ? 't' : 'p'} A1:1 C420mpeg2\n`),
  ]
  for (let f = 0; f < frames; f++) {
    const all = new Uint8Array((width * height * 3) / 2)
    for (let y = 0; y < height; y++) {
      const t = 2 * f + (interlaced ? y & 1 : 0)
      const [dx, dy] = [Math.floor(3.5 * t) % width, Math.floor(1.3 * t) % (height / 2)]
      for (let x = 0; x < width; x++) {
        const [u, v] = [x + dx, y + dy]
        const wave = 60 * Math.sin(u / 5.3) + 40 * Math.sin(v / 3.7 + u / 9)
        all[y * width + x] = 116 + wave + grain[v * 2 * width + u]!
      }
    }
    for (const c of [0, 1])
      for (let y = 0; y < height / 2; y++)
        for (let x = 0; x < width / 2; x++)
          all[width * height + (c * width * height) / 4 + (y * width) / 2 + x] =
            128 + 50 * Math.sin((x + f * 2 * (1 - 2 * c)) / 11) + 30 * Math.cos((y + f) / 7)
    parts.push(Buffer.from('FRAME\n'), Buffer.from(all))
  }
  return Buffer.concat(parts)
}

/** Codes pictures by an encoder that others wrote. */
function coded(name: string, interlaced: boolean, ...options: string[]): Uint8Array {
  const file = path.join(folder, `${name}.m2v`)
  execFileSync('mpeg2enc', ['-f', '3', '-b', '6000', '-q', '6', ...options, '-o', file], {
    input: moving(interlaced),
    stdio: ['pipe', 'ignore', 'ignore'],
  })
  return new Uint8Array(readFileSync(file))
}

/** The access units of a stream, in the order they are coded, and where each is shown. */
function unitsOf(stream: Uint8Array): { bytes: Uint8Array; shown: number }[] {
  const begins: { from: number; reference: number; group: boolean }[] = []
  let [from, group] = [-1, false]
  for (const part of partsOf(stream)) {
    if (([starts.sequence, starts.group, starts.picture] as number[]).includes(part.code) && from < 0)
      from = part.from - 4
    if (part.code === starts.group) group = true
    if (part.code !== starts.picture) continue
    begins.push({ from, reference: pictureHead(stream, part).reference, group })
    ;[from, group] = [-1, false]
  }
  let [base, most] = [0, -1]
  return begins.map((b, i) => {
    if (b.group) [base, most] = [base + most + 1, -1]
    most = Math.max(most, b.reference)
    return { bytes: stream.subarray(b.from, begins[i + 1]?.from), shown: base + b.reference }
  })
}

/** What libmpeg2 makes of a stream, frame by frame: luma, and Cb beside Cr below it. */
function judged(name: string, count = frames, full = false): Uint8Array[] {
  const out = path.join(folder, `${name}-pictures`)
  mkdirSync(out)
  execFileSync('mpeg2dec', ['-o', 'pgm', path.join(folder, `${name}.m2v`)], { cwd: out, stdio: 'ignore' })
  return Array.from({ length: count }, (_, n) => {
    const pgm = readFileSync(path.join(out, `${n}.pgm`))
    const head = /^P5\s+(\d+)\s+(\d+)\s+255\s/.exec(pgm.subarray(0, 40).toString('latin1'))!
    expect([head[1], head[2]]).toEqual([String(width), String(height * (full ? 2 : 1.5))])
    return new Uint8Array(pgm.subarray(head[0].length))
  })
}

/** The most and the mean that a picture is apart from the judge's, in steps of 8 bits. */
function apart(
  own: readonly Uint8Array[],
  stride: number,
  theirs: Uint8Array,
  full = false,
): [most: number, mean: number] {
  let [most, sum] = [0, 0]
  for (const k of [0, 1, 2]) {
    const [w, h] = k === 0 ? [width, height] : [width / 2, full ? height : height / 2]
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        const at = k === 0 ? y * width + x : (height + y) * width + (k - 1) * w + x
        const d = Math.abs(theirs[at]! - own[k]![y * (k === 0 ? stride : stride / 2) + x]!)
        most = Math.max(most, d)
        sum += d
      }
  }
  return [most, sum / (width * height * (full ? 2 : 1.5))]
}

describe.runIf(has('mpeg2enc') && has('mpeg2dec'))('pictures of MPEG-2', () => {
  it.each<[string, boolean, string[], string]>([
    ['frames that lean on both sides', false, ['-I', '0', '-R', '2', '-g', '6', '-G', '9'], 'IPB'],
    ['frames of two fields', true, ['-I', '1', '-R', '2', '-g', '6', '-G', '9'], 'IPB'],
    [
      'fields that lean on both before them',
      true,
      ['-I', '1', '-R', '0', '--dualprime-mpeg2', '-g', '6', '-G', '9'],
      'IP',
    ],
    ['pictures that stand alone, of the finest means', false, ['-I', '0', '-g', '1', '-G', '1', '-D', '10'], 'I'],
    [
      'coefficients line by line, and weights of their own',
      true,
      ['-I', '1', '--no-altscan-mpeg2', '-K', 'tmpgenc', '-R', '1'],
      'IPB',
    ],
  ])('%s are what libmpeg2 makes of them', (name, interlaced, options, kinds) => {
    const units = unitsOf(coded(name, interlaced, ...options))
    expect([units.length, [...new Set(units.map((u) => kindOf(u.bytes)))].sort().join('')]).toEqual([
      frames,
      [...kinds].sort().join(''),
    ])
    const theirs = judged(name)
    const decoder = new Mpeg2Decoder()
    let [most, mean] = [0, 0]
    for (const { bytes, shown } of units) {
      const { frame } = decoder.decode(bytes)
      const [m, a] = apart(frame.planes, frame.width, theirs[shown]!)
      ;[most, mean] = [Math.max(most, m), Math.max(mean, a)]
    }
    console.info(`${name}: at most ${most} apart, ${mean.toFixed(3)} in the mean`)
    // transforms may round otherwise (H.262 annex A), and what leans on them adds that up
    expect(most).toBeLessThanOrEqual(kinds === 'I' ? 1 : 3)
    expect(mean).toBeLessThan(0.1)
  })

  it('say what they are', () => {
    const said = describeMpeg2(null, unitsOf(coded('told', true, '-I', '1', '-a', '3'))[0]!.bytes)
    expect(said).toMatchObject({
      ...{ profile: 'Main', level: 'Main', width, height, scan: 'interlaced-tff', chroma: '4:2:0', bitDepth: 8 },
      ...{ timing: { num: 25, den: 1 }, pixelAspect: '160:117' },
    })
    expect(describeMpeg2(null, Uint8Array.of(0, 0, 1, 0xb3))).toEqual({})
  })

  it.runIf(has('mkvmerge'))('are read out of a file in any order: from both ends, singly, across groups', async () => {
    coded('film', false, '-I', '0', '-R', '2', '-g', '6', '-G', '6')
    const file = path.join(folder, 'film.mkv')
    execFileSync('mkvmerge', ['-q', '-o', file, path.join(folder, 'film.m2v')])
    const theirs = judged('film')
    const source = await openFile(file)
    const media = await openMedia(source)
    expect(media.info.video).toMatchObject([{ codec: 'mpeg2', width, height, frames, intra: false, chroma: '4:2:0' }])
    const pictures = openPictures(media, null)
    const check = (n: number, p: Picture) => {
      const [most] = apart(p.planes as readonly Uint8Array[], width, theirs[n]!)
      expect([n, most <= 3]).toEqual([n, true])
    }
    const read = async (from: number, to: number) => {
      let n = from
      for await (const { frame, picture } of pictures.read({ in: from, out: to })) {
        expect(frame).toBe(n)
        check(n++, picture)
      }
      expect(n).toBe(to)
    }
    await read(0, frames)
    for (let n = frames - 1; n >= 0; n--) await read(n, n + 1)
    await read(4, 9)
    await source.close()
  })

  it.runIf(has('mkvmerge'))('come out of a night as a master and as stills, frame for frame', async () => {
    const storage = path.join(folder, 'storage')
    mkdirSync(storage)
    coded('night', true, '-I', '1', '-R', '2', '-g', '6', '-G', '6')
    execFileSync('mkvmerge', ['-q', '-o', path.join(storage, 'night.mkv'), path.join(folder, 'night.m2v')])
    const theirs = judged('night')
    const engine = await testEngine(folder)
    const t = await engine.timelines.bringIn({ root: 'storage', path: 'night.mkv' })
    const region = { id: 'a', name: 'Bell', in: 3, out: 11, metadata: {} }
    await engine.timelines.saveSplit(t.id, { regions: [region], markers: [] }, 1)
    for (const kind of ['master', 'sequence']) {
      await engine.outlets.save(outlet(kind, 'storage', recipe(kind, { channels: 'none' })))
      await engine.outlets.choose([{ timelineId: t.id, regionId: 'a', outletId: kind }], true)
    }
    await drain(engine)
    await engine.nights.start('night', 2)
    await drain(engine)
    const run = await latestRun(engine)
    expect(run.items.map((i) => [i.state, i.problem?.message ?? ''])).toEqual(Array(2).fill(['done', '']))
    const source = await openFile(path.join(storage, 'out/master/01_Bell.mov'))
    const made = await openMedia(source)
    let n = 0
    for await (const { picture } of openPictures(made, null).read({ in: 0, out: 8 })) {
      let most = 0
      for (let i = 0; i < width * height; i++)
        most = Math.max(most, Math.abs(picture.planes[0][i]! / 4 - theirs[3 + n]![i]!))
      expect([n++, most <= 3]).toEqual([n - 1, true])
    }
    await source.close()
    await engine.close()
  })

  it('of which a slice or a field is missing are refused, not shown in part', () => {
    const [unit] = unitsOf(coded('parts', true, '-I', '1', '-g', '1', '-G', '1'))
    const slices = partsOf(unit!.bytes).filter((p) => p.code === 4)
    const less = Buffer.concat([unit!.bytes.subarray(0, slices[0]!.from - 4), unit!.bytes.subarray(slices[0]!.to)])
    expect(() => new Mpeg2Decoder().decode(less)).toThrow('13 of 130 macroblocks are missing')
    const [pair] = plainStream({ width, height, chroma422: false, structure: 'fields' }, () => 90)
    const second = partsOf(pair!).filter((p) => p.code === starts.picture)[1]!
    expect(() => new Mpeg2Decoder().decode(pair!.subarray(0, second.from - 4))).toThrow(
      '65 of 130 macroblocks are missing',
    )
  })

  it('damaged ten thousand times, are decoded or refused where they are damaged', () => {
    const good = unitsOf(coded('good', true, '-I', '1', '-R', '2', '-g', '6', '-G', '6')).slice(0, 4)
    const next = seeded(20261127)
    let refused = 0
    for (let k = 0; k < 10_000; k += good.length) {
      const decoder = new Mpeg2Decoder()
      for (const { bytes } of good)
        try {
          decoder.decode(mutate(bytes.subarray(0, 4000), next))
        } catch (e) {
          if (!(e instanceof StreamFault)) throw e
          refused++
        }
    }
    expect(refused).toBeGreaterThan(1000)
  })
})

describe('the kernel reads pictures of MPEG-2 as the plain reader does', () => {
  /** The planes of each unit in turn, or what is wrong with it. */
  function read(units: readonly Uint8Array[], loops: Kernel | null): (string | readonly Uint8Array[])[] {
    const decoder = new Mpeg2Decoder(loops)
    return units.map((unit) => {
      try {
        return decoder.decode(unit).frame.planes
      } catch (e) {
        if (!(e instanceof StreamFault)) throw e
        return `${e.message} at ${e.bit}`
      }
    })
  }

  /** Whether two readings are the same; how many of them are faults. */
  function same(fast: ReturnType<typeof read>, plain: ReturnType<typeof read>): number {
    let faults = 0
    fast.forEach((f, n) => {
      const p = plain[n]!
      if (typeof f === 'string' || typeof p === 'string') expect(f).toBe(p)
      else expect([n, ...f.map((planes, k) => Buffer.compare(planes, p[k]!))]).toEqual([n, 0, 0, 0])
      if (typeof p === 'string') faults++
    })
    return faults
  }

  /** The kernel, and what it said of each slice. */
  function watched(): { loops: Kernel; said: number[] } {
    const said: number[] = []
    const own = kernel()!
    const run = {
      ...own.run,
      mpeg2Slice(...of: [number, number, number]) {
        said.push(own.run.mpeg2Slice(...of))
        return said.at(-1)!
      },
    }
    return { loops: Object.create(own, { run: { value: run } }) as Kernel, said }
  }

  it.each<StreamShape>(
    (['frame', 'fields', 'progressive'] as const).flatMap((structure) =>
      [false, true].map((chroma422) => ({ width: 128, height: 96, chroma422, structure })),
    ),
  )('with all that they may have, whole and damaged: %j', (shape) => {
    const next = seeded(shape.structure.length + Number(shape.chroma422))
    let faults = 0
    for (let n = 0; n < 12; n++) {
      const units = randomStream(shape, () => next() / 2 ** 32)
      const { loops, said } = watched()
      expect(same(read(units, loops), read(units, null))).toBe(0)
      // it read all of them itself
      expect([said.length > 30, said.filter((s) => s < 0)]).toEqual([true, []])
      for (let k = 0; k < 4; k++) {
        const bad = units.map((u) => ((next() >>> 8) % 3 === 0 ? mutate(u, next) : u))
        faults += same(read(bad, kernel()), read(bad, null))
      }
    }
    expect(faults).toBeGreaterThan(20)
  })

  it('with slices that libmpeg2 knows', () => {
    const units = plainStream({ width, height, chroma422: true, structure: 'fields' }, (k, x, y) => 90 + k * x + y)
    const next = seeded(7)
    expect(same(read(units, kernel()), read(units, null))).toBe(0)
    let faults = 0
    for (let n = 0; n < 100; n++) {
      const bad = units.map((u) => mutate(u, next))
      faults += same(read(bad, kernel()), read(bad, null))
    }
    expect(faults).toBeGreaterThan(20)
  })
})

describe.runIf(has('mpeg2dec'))('4:2:2, and pictures of one field', () => {
  const paint: Paint = (k, x, y) =>
    k === 0
      ? 120 + 70 * Math.sin(x / 6 + y / 11) + 20 * ((x >> 3) & 1) + 12 * (y & 1)
      : 128 + 60 * Math.sin(x / (5 + k) - y / (9 + k)) + 10 * (y & 1)
  const shapes = (['frame', 'fields', 'progressive'] as const).flatMap((structure) =>
    [false, true].map((chroma422): StreamShape => ({ width, height, chroma422, structure })),
  )
  it.each(shapes)('%j: what libmpeg2 makes of them', (shape) => {
    const { structure, chroma422 } = shape
    const name = `${structure}-${chroma422 ? '422' : '420'}`
    const units = plainStream(shape, paint)
    writeFileSync(path.join(folder, `${name}.m2v`), Buffer.concat(units))
    const theirs = judged(name, 2, chroma422)
    const decoder = new Mpeg2Decoder()
    units.forEach((unit, n) => {
      const { frame } = decoder.decode(unit)
      const [most] = apart(frame.planes, frame.width, theirs[n]!, chroma422)
      expect([n, most <= 1]).toEqual([n, true])
      // there is something to be seen, and the second moved it
      const luma = frame.planes[0]
      expect(Math.max(...luma) - Math.min(...luma)).toBeGreaterThan(100)
    })
    const said = describeMpeg2(null, units[0]!)
    expect(said).toMatchObject({ chroma: chroma422 ? '4:2:2' : '4:2:0', profile: chroma422 ? '4:2:2' : 'Main' })
    expect(said.scan).toBe(structure === 'progressive' ? 'progressive' : 'interlaced-tff')
  })
})

describe.runIf(has('mpeg2enc') && has('mpeg2dec'))('pictures of MPEG-2 in MXF', () => {
  const label = (hex: string) => Buffer.from(hex, 'hex')

  /** A file whose pictures all take the same room: its kind of essence and its index are then made another. */
  function mxfOf(
    units: readonly { readonly bytes: Uint8Array; readonly shown: number }[],
    indexed: boolean,
  ): Uint8Array {
    const pictureBytes = Math.max(...units.map((u) => u.bytes.length))
    const made = layUnits('mxf', {
      video: {
        ...{ kind: 'video', codec: 'h264-intra', width: 1920, height: 1080, pixelAspect: '1:1', colour: bt709 },
        ...{ scan: 'progressive', configuration: null },
      },
      ...{ pictureBytes, sound: null, samplesBefore: () => 0, frames: units.length, rate: makeRate(25), chapters: [] },
      ...{ start: { frames: 0, dropFrame: false }, name: 'Film', identity: new Uint8Array(16).fill(7) },
    })
    const bytes = new Uint8Array(made.tail.at + made.tail.bytes.length)
    bytes.set(made.head)
    bytes.set(made.tail.bytes, made.tail.at)
    const places: number[] = []
    units.forEach((u, n) => {
      const picture = new Uint8Array(pictureBytes)
      picture.set(u.bytes)
      for (const p of made.unit(n, picture, [])) {
        places.push(p.at - made.head.length)
        bytes.set(p.bytes, p.at)
      }
    })
    const all = Buffer.from(bytes.buffer)
    const every = (what: Buffer, each: (at: number) => void) => {
      for (let at = all.indexOf(what); at >= 0; at = all.indexOf(what, at + 1)) each(at)
    }
    // 4:2:2 at high level, pictures that lean on each other
    every(label('060e2b340401010a0401020201323'), (at) => label('060e2b34040101030401020201040300').copy(all, at))
    if (indexed) every(label(keys.index), (at) => all.set(indexOf(units, places), at))
    return bytes
  }

  /** An index with a place for each picture, as long as the one that it takes the place of, with its fill. */
  function indexOf(
    units: readonly { readonly bytes: Uint8Array; readonly shown: number }[],
    places: number[],
  ): Uint8Array {
    const entries = new Writer().u32(units.length).u32(11)
    for (let n = 0; n < units.length; n++) {
      const coded = units.findIndex((u) => u.shown === n)
      const kind = kindOf(units[n]!.bytes)
      entries
        .u8((coded - n) & 255)
        .u8(0)
        .u8(kind === 'I' ? 0xc0 : kind === 'P' ? 0x22 : 0x33)
        .u64(places[n]!)
    }
    const items: [Property, Uint8Array][] = [
      ['instance', new Uint8Array(16).fill(9)],
      ['indexEditRate', value.rational(makeRate(25))],
      ['indexStart', value.i64(0)],
      ['indexDuration', value.i64(units.length)],
      ['unitBytes', value.u32(0)],
      ['indexSid', value.u32(2)],
      ['bodySid', value.u32(1)],
      ['entries', entries.bytes()],
    ]
    const w = new Writer()
    for (const [name, v] of items) w.raw(Buffer.from(tags[name][0], 'hex')).u16(v.length).raw(v)
    const set = klv(keys.index, w.bytes())
    return Buffer.concat([set, fill(512 - set.length)])
  }

  it('are shown in the order of the index, and stand for what they are', async () => {
    const units = unitsOf(coded('order', true, '-I', '1', '-R', '2', '-g', '6', '-G', '6'))
    const media = await openMedia(memorySource(mxfOf(units, true), 'film.mxf'))
    // its descriptor is that of other pictures
    expect(media.info.problems.map((p) => p.code)).toEqual(Array(5).fill('media.contradiction'))
    expect(media.info.video).toMatchObject([{ codec: 'mpeg2', width, height, frames, intra: false, profile: 'Main' }])
    const theirs = judged('order')
    let n = 0
    for await (const { picture } of openPictures(media, null).read({ in: 0, out: frames })) {
      const [most] = apart(picture.planes as readonly Uint8Array[], width, theirs[n]!)
      expect([n++, most <= 3]).toEqual([n - 1, true])
    }
    expect(n).toBe(frames)
  })

  it('without an index are refused where they lean on each other, and shown where they stand alone', async () => {
    const leaning = unitsOf(coded('leaning', false, '-I', '0', '-R', '2', '-g', '6', '-G', '6'))
    const read = async (units: typeof leaning) => {
      const media = await openMedia(memorySource(mxfOf(units, false), 'film.mxf'))
      let n = 0
      for await (const _ of openPictures(media, null).read({ in: 0, out: frames })) n++
      return n
    }
    await expect(read(leaning)).rejects.toThrow('there is no index that tells their order')
    expect(await read(unitsOf(coded('alone', false, '-I', '0', '-g', '1', '-G', '1')))).toBe(frames)
  })
})

describe.runIf(has('mpeg2enc') && has('mpeg2dec'))('pictures of MPEG-2 in MOV and MP4', () => {
  /** A film of units in the order they are coded, each shown at its place. */
  function movieOf(units: readonly { readonly bytes: Uint8Array; readonly shown: number }[], brand: 'mov' | 'mp4') {
    const colour = { primaries: 5, transfer: 5, matrix: 5, fullRange: false }
    const video = { kind: 'video', codec: 'mpeg2', width, height, pixelAspect: '1:1', colour } as const
    const { head, tail } = mp4.layout!(brand, {
      ...{ frames: units.length, rate: makeRate(25), start: { frames: 90_000, dropFrame: false }, chapters: [] },
      dataSize: units.reduce((n, u) => n + u.bytes.length, 0),
      tracks: [
        {
          essence: { ...video, scan: 'interlaced-tff', configuration: null },
          timescale: 25,
          sizes: Uint32Array.from(units, (u) => u.bytes.length),
          durations: { constant: 1 },
          cts: Int32Array.from(units, (u, n) => u.shown - n),
          sync: Uint8Array.from(units, (u) => (kindOf(u.bytes) === 'I' ? 1 : 0)),
          chunks: [{ offset: 0, samples: units.length }],
        },
      ],
    })
    return Buffer.concat([head, ...units.map((u) => u.bytes), tail])
  }
  const unitsOfFilm = (name: string) => unitsOf(coded(name, true, '-I', '1', '-R', '2', '-g', '6', '-G', '6'))

  it('are what their stream says, shown in their order, also from the middle', async () => {
    const media = await openMedia(memorySource(movieOf(unitsOfFilm('movie'), 'mov'), 'film.mov'))
    expect(media.info.problems).toEqual([])
    expect(media.info.video).toMatchObject([
      { codec: 'mpeg2', width, height, frames, intra: false, profile: 'Main', chroma: '4:2:0', scan: 'interlaced-tff' },
    ])
    const theirs = judged('movie')
    for (const first of [0, 7]) {
      let n = first
      for await (const { picture } of openPictures(media, null).read({ in: first, out: frames })) {
        const [most] = apart(picture.planes as readonly Uint8Array[], width, theirs[n]!)
        expect([n++, most <= 3]).toEqual([n - 1, true])
      }
      expect(n).toBe(frames)
    }
  })

  it('are copied untouched, also from the middle of a group', async () => {
    const own = scratchFolder()
    const at = (file: string) => path.join(own.folder, 'storage', file)
    mkdirSync(at(''), { recursive: true })
    writeFileSync(at('film.mov'), movieOf(unitsOfFilm('copied'), 'mov'))
    const theirs = judged('copied')
    const engine = await testEngine(own.folder)
    const range = { in: 4, out: 12 }
    const by = recipe('rewrap')
    const done = await deliver(engine, { name: 'copied', file: 'film.mov', range, by })
    expect([done.state, done.verdict, done.problem]).toEqual(['done', 'pass', null])
    const source = await openFile(at(done.path))
    const made = await openMedia(source)
    expect(made.info.video).toMatchObject([{ codec: 'mpeg2', frames: 8, intra: false }])
    let n = range.in
    for await (const { picture } of openPictures(made, null).read({ in: 0, out: 8 })) {
      const [most] = apart(picture.planes as readonly Uint8Array[], width, theirs[n]!)
      expect([n++, most <= 3]).toEqual([n - 1, true])
    }
    await source.close()
    await engine.close()
    own.remove()
  })

  it('are told in MP4 by their type of object', async () => {
    const bytes = movieOf(unitsOfFilm('object'), 'mp4')
    // in place of colour and shape, 35 bytes: descriptors of the stream, the decoder, and the layer between
    const esds = (object: number) =>
      Buffer.from([
        ...[0, 0, 0, 35, ...Buffer.from('esds'), 0, 0, 0, 0, 3, 21, 0, 1, 0],
        ...[4, 13, object, 0x11, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 6, 1, 2],
      ])
    const of = async (object: number) => {
      bytes.write('mp4v', bytes.includes('m2v1') ? bytes.indexOf('m2v1') : bytes.indexOf('mp4v'), 'latin1')
      const at = bytes.includes('nclx') ? bytes.indexOf('nclx') - 8 : bytes.indexOf('esds') - 4
      esds(object).copy(bytes, at)
      return (await openMedia(memorySource(bytes, 'film.mp4'))).info.video[0]!
    }
    expect(await of(0x61)).toMatchObject({ codec: 'mpeg2', width, height, profile: 'Main' })
    expect(await of(0x20)).toMatchObject({ codec: 'mp4v', profile: null })
  })
})

it('a unit without pictures, and pictures that are not read here, are faults by name', () => {
  const decoder = new Mpeg2Decoder()
  const fault = (...bytes: number[]) => {
    try {
      decoder.decode(Uint8Array.from(bytes))
    } catch (e) {
      return (e as StreamFault).message
    }
    return null
  }
  expect(fault()).toBe('no picture')
  expect(fault(0, 0, 1, 0, 0, 8, 0, 0, 0, 0, 1, 1, 0x20)).toBe('a picture before its sequence')
  const mpeg1 = [0, 0, 1, 0xb3, 16, 0, 16, 0x13, 0xff, 0xff, 0xe0, 0, 0, 0, 1, 0, 0, 8, 0, 0, 0, 0, 1, 1, 0x20]
  expect(fault(...mpeg1)).toBe('a picture of MPEG-1')
})
