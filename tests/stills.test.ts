import { execFileSync, spawnSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import sharp from 'sharp'
import { afterAll, describe, expect, it } from 'vitest'
import { stillLibrary } from '../engine/storage/stilllibrary'
import { bt709 } from '../core/media/colour'
import type { Colour } from '../core/media/media'
import type { RgbSignal } from '../core/picture/rgb'
import { ProblemError } from '../core/problem'
import { makeRate } from '../core/time/rate'
import { dpx } from '../core/stills/dpx'
import { exr } from '../core/stills/exr/exr'
import { stillFormatOf, stillFormats, stillWriting, stillWritings } from '../core/stills/registry'
import { quantised, type StillTold } from '../core/stills/still'

const folder = mkdtempSync(path.join(tmpdir(), 'velvet-stills-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))
const has = (tool: string) => spawnSync(tool, ['--version']).error === undefined

const told: StillTold = {
  ...{ name: 'fog.0900012.dpx', show: 'The Ferry Almanac', date: '2026-03-01', rate: makeRate(25) },
  ...{
    reel: '',
    timecode: '10:00:00:12',
    position: 12,
    length: 40,
    colour: bt709,
    pixelAspect: '1:1',
    interlaced: false,
  },
}

/** Every channel from black to white at its own pace, with what lies beyond at the ends. */
function ramp(width: number, height: number, beyond = 0): RgbSignal {
  const rgb = new Float32Array(width * height * 3)
  for (let i = 0; i < rgb.length; i++) {
    const [x, y, k] = [Math.floor(i / 3) % width, Math.floor(i / 3 / width), i % 3]
    const v = k === 0 ? x / (width - 1) : k === 1 ? y / (height - 1) : (x + y) / (width + height - 2)
    rgb[i] = -beyond + v * (1 + 2 * beyond)
  }
  return { width, height, rgb }
}

const write = (name: string, picture: RgbSignal, more: Partial<StillTold> = {}) =>
  stillWriting(name)[1].write(picture, { ...told, ...more }, stillLibrary)
const read = async (name: string, bytes: Uint8Array) => stillFormatOf(name)!.read(bytes, name, stillLibrary)

/** 16-bit R, G, B of a file as ImageMagick reads it; without what it makes of its colour. */
function magick(bytes: Uint8Array, ending: string, ...more: string[]): Uint16Array {
  const file = path.join(folder, `x${ending}`)
  writeFileSync(file, bytes)
  const raw = execFileSync('convert', [file, ...more, '-depth', '16', '-endian', 'LSB', 'rgb:-'], {
    maxBuffer: 1 << 28,
  })
  return new Uint16Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length))
}

const furthest = (a: ArrayLike<number>, b: ArrayLike<number>) => {
  expect(a.length).toBe(b.length)
  let worst = 0
  for (let i = 0; i < a.length; i++) worst = Math.max(worst, Math.abs(a[i]! - b[i]!))
  return worst
}

describe('every way of writing stills', () => {
  const picture = ramp(62, 35)
  it.each(
    stillWritings()
      .filter(([f]) => f.codec !== 'jpeg')
      .map(([f, w]) => [w.name, f, w] as const),
  )('%s is read back as it was written, to half a step', async (name, format, writing) => {
    const bytes = await write(name, picture)
    expect(bytes.length).toBeLessThanOrEqual(writing.bytes(62, 35))
    const { head, picture: back } = await read(`x${format.extensions[0]}`, bytes)
    expect(head).toMatchObject({ width: 62, height: 35, bitDepth: writing.bitDepth, notes: [] })
    expect(head.colour).toEqual(writing.states(bt709))
    expect(furthest(back.rgb, picture.rgb)).toBeLessThan(
      format.codec === 'exr' ? 0.0005 : 0.51 / (2 ** writing.bitDepth - 1),
    )
  })
  it.skipIf(!has('convert')).each([
    ['dpx-10', '.dpx', 65535 / 1023],
    ['dpx-16', '.dpx', 1],
    ['tiff-8', '.tif', 257],
    ['tiff-16', '.tif', 1],
    ['png-8', '.png', 257],
    ['png-16', '.png', 1],
  ])('%s is read by ImageMagick to the same codes', async (name, ending, step) => {
    const codes = quantised(picture, Math.round(Math.log2(65535 / step + 1)))
    const own = Float64Array.from(codes, (c) => c * step)
    expect(furthest(magick(await write(name, picture), ending, '-set', 'colorspace', 'sRGB'), own)).toBeLessThan(1.01)
  })
  it.skipIf(!has('convert')).each(['exr-zip', 'exr-none'])(
    '%s is read by ImageMagick to the same light',
    async (name) => {
      const seen = magick(await write(name, picture), '.exr', '-set', 'colorspace', 'sRGB')
      // a half has eleven bits: a step of a code in two thousand near white
      const light = Float64Array.from(seen, (v) => v / 65535)
      expect(
        furthest(
          light,
          picture.rgb.map((v) => v ** 2.4),
        ),
      ).toBeLessThan(0.0005)
    },
  )
  it('writes JPEG that another reader takes, close to what it was', async () => {
    const { data, info } = await sharp(await write('jpeg-8', picture))
      .raw()
      .toBuffer({ resolveWithObject: true })
    expect([info.width, info.height, info.channels]).toEqual([62, 35, 3])
    expect(furthest(data, quantised(picture, 8))).toBeLessThan(8)
  })
  it('cuts off what lies beyond black and white, but in floating point', async () => {
    const beyond = ramp(32, 16, 0.06)
    for (const [format, writing] of stillWritings()) {
      const { picture: back } = await read(`x${format.extensions[0]}`, await write(writing.name, beyond))
      const ends = [Math.min(...back.rgb), Math.max(...back.rgb)]
      if (format.codec === 'exr') expect(furthest(ends, [-0.06, 1.06])).toBeLessThan(0.001)
      else expect(ends).toEqual([0, 1])
    }
  })
})

describe('what stills say beside their pictures', () => {
  const picture = ramp(4, 4)
  it('is read back', async () => {
    for (const name of ['dpx-10', 'exr-zip']) {
      const file = `x.${name.slice(0, 3)}`
      const { head } = await read(file, await write(name, picture))
      expect(head).toMatchObject({ rate: makeRate(25), timecode: [10, 0, 0, 12], dropFrame: false, colour: bt709 })
      const dropped = { rate: makeRate(30000, 1001), timecode: '09:59:59;28' }
      const drop = (await read(file, await write(name, picture, dropped))).head
      expect([drop.rate, drop.timecode]).toEqual([makeRate(30000, 1001), [9, 59, 59, 28]])
      expect(drop.dropFrame).toBe(name === 'exr-zip')
    }
  })
  it.skipIf(!has('identify'))('is read by ImageMagick', async () => {
    const file = path.join(folder, 'told.dpx')
    writeFileSync(file, await write('dpx-10', picture, { interlaced: true, pixelAspect: '16:11' }))
    const said = execFileSync('identify', ['-verbose', file], { encoding: 'utf8' })
    for (const line of [
      /dpx:file.creator: Velvet Crane/,
      /dpx:file.project: The Ferry Almanac/,
      /dpx:file.filename: fog.0900012.dpx/,
      /dpx:television.time.code: 10:00:00:12/,
      /dpx:television.frame_rate: 25/,
      /dpx:film.frame_position: 12/,
      /dpx:film.sequence_extent: 40/,
      /dpx:television.interlace: 1/,
      /dpx:orientation.aspect_ratio: 16x11/,
    ])
      expect(said).toMatch(line)
    expect((await read('told.dpx', readFileSync(file))).head).toMatchObject({ interlaced: true, pixelAspect: '16:11' })
    const wide = await write('exr-none', picture, { pixelAspect: '16:11' })
    expect((await read('x.exr', wide)).head.pixelAspect).toBe('16:11')
    writeFileSync(path.join(folder, 'told.exr'), await write('exr-zip', picture))
    expect(execFileSync('identify', ['-format', '%w %h', path.join(folder, 'told.exr')], { encoding: 'utf8' })).toBe(
      '4 4',
    )
  })
  it('leaves out what a format has no room for, and says that it does', () => {
    const tells = (name: string, rate = 50) => stillWriting(name)[0].tells(makeRate(rate)).join()
    expect(['exr-zip', 'png-16', 'dpx-10'].map((n) => tells(n))).toEqual([
      'rate,shape',
      '',
      'rate,timecode,shape,fields',
    ])
    expect(tells('exr-zip', 25)).toBe('rate,shape,timecode,dropped')
    const wide: Colour = { primaries: 9, transfer: 14, matrix: 9, fullRange: false }
    const states = ['dpx-10', 'exr-zip', 'png-16'].map((n) => stillWriting(n)[1].states(wide)?.primaries ?? null)
    expect(states).toEqual([null, 9, null])
  })
  it('tells of an alpha channel, and of values that are no video', async () => {
    const alpha = await sharp({ create: { width: 4, height: 4, channels: 4, background: '#1234' } })
      .png()
      .toBuffer()
    expect((await read('x.png', alpha)).head.alpha).toBe(true)
    const log = await write('dpx-10', picture)
    log[801] = 3
    expect((await read('x.dpx', log)).head.notes.join()).toMatch(/logarithmic/)
  })
  it('tells of further elements of a DPX: that one is of alpha, or that they are not read', async () => {
    const two = await write('dpx-16', picture)
    const told = async (descriptor: number) => {
      two[771] = 2
      two[800 + 72] = descriptor
      const { alpha, notes } = (await read('x.dpx', two)).head
      return [alpha, notes.join()]
    }
    expect(await told(4)).toEqual([true, ''])
    expect(await told(50)).toEqual([false, 'It has 2 image elements, of which the first is read.'])
  })
  it('takes values as they stand, whatever a profile or a place to turn to says, and tells of those', async () => {
    const orange = sharp({ create: { width: 4, height: 2, channels: 3, background: '#f08020' } })
    const png = await orange.clone().withIccProfile('p3').png().toBuffer()
    const found = await read('x.png', png)
    const raw = await sharp(png, { ignoreIcc: true }).raw().toBuffer()
    expect([...quantised(found.picture, 8)]).toEqual([...raw])
    expect(found.head.notes.join()).toMatch(/colour profile/)
    const turned = await orange.clone().withMetadata({ orientation: 6 }).jpeg().toBuffer()
    const { head } = await read('x.jpg', turned)
    expect([head.width, head.height, head.notes.join()]).toEqual([4, 2, expect.stringContaining('turned')])
    expect((await read('y.png', await orange.clone().png().toBuffer())).head.notes).toEqual([])
  })
})

describe('DPX of others', () => {
  it.skipIf(!has('convert')).each([8, 10, 16])('of %d bits is read as ImageMagick writes it', async (depth) => {
    const picture = ramp(33, 9)
    const ppm = path.join(folder, 'x.ppm')
    writeFileSync(ppm, Buffer.concat([Buffer.from('P6\n33 9\n255\n'), Buffer.from(quantised(picture, 8))]))
    const file = path.join(folder, `other${depth}.dpx`)
    execFileSync('convert', [ppm, '-set', 'colorspace', 'sRGB', '-depth', String(depth), file])
    const { head, picture: back } = await read('x.dpx', readFileSync(file))
    expect([head.width, head.height, head.bitDepth]).toEqual([33, 9, depth])
    expect(furthest(back.rgb, picture.rgb)).toBeLessThan(1.1 / 255)
  })
})

describe('OpenEXR of others', () => {
  it.skipIf(!has('convert')).each(['None', 'ZIPS', 'ZIP'])(
    'compressed with %s is read as ImageMagick writes it',
    async (by) => {
      const picture = ramp(33, 40)
      const ppm = path.join(folder, 'light.ppm')
      const light = Float32Array.from(picture.rgb, (v) => v ** 2.4)
      const words = Buffer.from(quantised({ ...picture, rgb: light }, 16).buffer).swap16()
      writeFileSync(ppm, Buffer.concat([Buffer.from('P6\n33 40\n65535\n'), words]))
      const file = path.join(folder, `other-${by}.exr`)
      execFileSync('convert', [ppm, '-set', 'colorspace', 'RGB', '-compress', by, file])
      const { head, picture: back } = await read('x.exr', readFileSync(file))
      expect([head.width, head.height]).toEqual([33, 40])
      expect(
        furthest(
          back.rgb.map((v) => v ** 2.4),
          light,
        ),
      ).toBeLessThan(0.0006)
    },
  )
})

describe('stills that are moved to another place', () => {
  const place = { name: 'sea.0001001.dpx', rate: makeRate(30000, 1001), position: 1, length: 9, reel: 'CARD 07' }
  const there = { ...place, timecode: '01:00:00;07' }
  it('keep every sample, and say the new place', async () => {
    for (const [format, name] of [
      [dpx, 'dpx-10'],
      [dpx, 'dpx-16'],
      [exr, 'exr-zip'],
      [exr, 'exr-none'],
    ] as const) {
      const before = await write(name, ramp(31, 37, 0.05), { pixelAspect: '16:11' })
      const [was, is] = [await format.read(before, 'a', stillLibrary), format.moved!(before, there)]
      const { head, picture } = await format.read(is, 'b', stillLibrary)
      expect(picture.rgb).toEqual(was.picture.rgb)
      const own = { timecode: [1, 0, 0, 7], rate: makeRate(30000, 1001), dropFrame: format === exr }
      const reel = format === exr ? 'CARD 07' : ''
      expect(head).toEqual({ ...was.head, ...own, reel })
      // what is moved back is what it was: nothing of it was lost on the way
      expect(format.moved!(is, told).length).toBe(before.length)
    }
  })
  it('are said to be of no reel in an OpenEXR where their label is of none', async () => {
    const named = await write('exr-none', ramp(4, 4), { reel: 'KÖNIG' })
    expect((await read('x.exr', named)).head.reel).toBe('KÖNIG')
    expect((await read('x.exr', exr.moved!(named, { ...there, reel: '' }))).head.reel).toBe('')
  })
  it('change in a DPX only what says where it is, in its own byte order', async () => {
    const big = await write('dpx-16', ramp(4, 4))
    const little = big.slice()
    for (const [from, to, size] of [
      ...[
        [0, 8, 4],
        [16, 36, 4],
        [660, 664, 4],
        [768, 772, 2],
        [772, 820, 4],
      ],
      ...[
        [1408, 1432, 4],
        [1620, 1628, 2],
        [1628, 1636, 4],
        [1712, 1732, 4],
        [1920, 1928, 4],
        [1940, 1972, 4],
      ],
    ] as [number, number, number][])
      for (let i = from; i < to; i += size) little.subarray(i, i + size).reverse()
    little.subarray(800, 804).reverse()
    for (let i = 2048; i < little.length; i += 2) little.subarray(i, i + 2).reverse()
    const view = new DataView(little.buffer)
    view.setUint16(804, 0, true)
    view.setUint16(806, 0, true)
    expect((await read('x.dpx', little)).head.timecode).toEqual([10, 0, 0, 12])
    const is = dpx.moved!(little, there)
    expect((await read('x.dpx', is)).head).toMatchObject({ timecode: [1, 0, 0, 7], rate: makeRate(30000, 1001) })
    const changed = [...is].flatMap((b, i) => (b === little[i] ? [] : [i]))
    const places = [
      [36, 136],
      [1712, 1728],
      [1920, 1924],
      [1940, 1944],
    ] as const
    expect(changed.filter((i) => !places.some(([a, b]) => i >= a && i < b))).toEqual([])
    expect(new DataView(is.buffer).getUint32(1716, true)).toBe(9)
  })
  it('leave alone in a DPX what lies where its headers end early', async () => {
    const whole = await write('dpx-16', ramp(24, 24))
    const short = new Uint8Array(whole.length - 384)
    short.set(whole.subarray(0, 1664))
    short.set(whole.subarray(2048), 1664)
    new DataView(short.buffer).setUint32(4, 1664)
    new DataView(short.buffer).setUint32(808, 1664)
    const was = await read('x.dpx', short)
    // there is no header of television, whatever samples stand in its place
    expect(was.head).toMatchObject({ timecode: null, rate: null, interlaced: null })
    const is = await read('x.dpx', dpx.moved!(short, there))
    expect(is).toEqual(was)
  })
  it('have no timecode in an OpenEXR of more frames than one counts', async () => {
    const is = exr.moved!(await write('exr-zip', ramp(4, 4)), { ...there, rate: makeRate(50), timecode: '01:00:00:07' })
    expect((await read('x.exr', is)).head).toMatchObject({ timecode: null, rate: makeRate(50) })
  })
  it.skipIf(!has('convert'))('keep an alpha channel and all else of an OpenEXR, as ImageMagick reads it', async () => {
    const file = path.join(folder, 'alpha.exr')
    execFileSync('convert', ['-size', '40x30', 'gradient:#ff800080-#0040ff10', '-compress', 'ZIP', file])
    const before = readFileSync(file)
    expect((await read('x.exr', before)).head.alpha).toBe(true)
    const after = exr.moved!(before, there)
    const seen = (bytes: Uint8Array) => {
      writeFileSync(file, bytes)
      return execFileSync('convert', [file, '-depth', '16', 'rgba:-']).toString('base64')
    }
    expect(seen(after)).toBe(seen(before))
  })
})

describe('damaged stills', () => {
  it('are told apart by their names', () => {
    for (const f of stillFormats) for (const e of f.extensions) expect(stillFormatOf(`A${e.toUpperCase()}`)).toBe(f)
    expect(stillFormatOf('a.mov')).toBeNull()
  })
  it.each([
    ['of DPX', dpx, 'dpx-10'],
    ['of OpenEXR', exr, 'exr-zip'],
    ['of OpenEXR that is not compressed', exr, 'exr-none'],
  ] as const)(
    '%s give a picture or a problem, ten thousand times',
    async (_, format, name) => {
      const whole = await write(name, ramp(24, 40))
      let [fine, bad] = [0, 0]
      for (let n = 0; n < 10_000; n++) {
        const bytes = whole.slice(0, n % 7 === 0 ? 1 + ((n * 7919) % whole.length) : whole.length)
        for (let k = 0; k < 1 + (n % 3); k++)
          bytes[(n * 104729 + k * 1299709) % Math.min(bytes.length, n % 2 ? 2100 : 1e9)]! ^= 1 << (n % 8)
        try {
          const { picture } = await format.read(bytes, 'damaged', stillLibrary)
          expect(picture.rgb.every(Number.isFinite)).toBe(true)
          expect(format.moved!(bytes, told).length).toBeGreaterThan(1000)
          fine++
        } catch (e) {
          if (!(e instanceof ProblemError)) throw e
          bad++
        }
      }
      expect(Math.min(fine, bad)).toBeGreaterThan(500)
    },
    120_000,
  )
})
