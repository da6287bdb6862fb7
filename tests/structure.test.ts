import { describe, expect, it } from 'vitest'
import { mutate, seeded } from './mutate'
import { plainMov } from './plainmov'
import { concatBytes, memorySource, Writer, type ByteSource } from '../core/bytes'
import { bt709 } from '../core/media/colour'
import { ProblemError } from '../core/problem'
import { makeRate } from '../core/time/rate'
import { sampleAtFrame } from '../core/time/samples'
import { recognised } from '../core/container/registry'
import { fieldsOf, partsAtATime, partsOf, type Part, type PartField, type Structure } from '../core/container/structure'
import { IntraEncoder } from '../core/codec/h264-intra/encode'
import { hardPicture, smallFormat } from '../core/codec/h264-intra/hardpictures'
import { unitsOf } from '../core/codec/nal'
import { mp4 } from '../core/container/mp4/container'
import { layUnits } from '../core/container/mxf/write'
import { wavHead } from '../core/container/wav/write'

const text = (s: string) => new TextEncoder().encode(s)

function movFile(): Uint8Array {
  const { head, step } = plainMov(32, 16, 5, 900_000)
  return concatBytes([head, new Uint8Array(step * 5)])
}

/** An access unit of intra pictures, with its parameter sets. */
function intraUnit(): Uint8Array {
  const f = smallFormat({})
  const encoder = new IntraEncoder(f)
  encoder.load(hardPicture(f, 1, 4))
  return encoder.encode({ slices: 1, qp: () => 30 })
}

function wavFile(): Uint8Array {
  const bext = {
    ...{ description: 'Fog Bell', originator: 'Quayhouse', originatorReference: 'FA-103', date: '2026-03-01' },
    ...{ time: '10:00:00', timeReference: 1_728_000_000, history: 'A=PCM\r\n' },
    loudness: { integrated: -23, range: 5, truePeak: -3, momentaryMax: -18, shortTermMax: -20 },
  }
  const cues = [{ at: 480, name: 'Bell' }]
  const head = wavHead({ channels: 2, sampleRate: 48000, bitDepth: 24, samples: 1000, cues, bext })
  return concatBytes([head, new Uint8Array(6000)])
}

/** Five frames of pictures of one size, with two tracks of sound. */
function mxfFile(): Uint8Array {
  const rate = makeRate(25)
  const shape = { width: 1920, height: 1080, scan: 'segmented' as const, pixelAspect: '1:1', colour: null }
  const units = layUnits('mxf', {
    video: { kind: 'video', codec: 'h264-intra', configuration: null, ...shape },
    pictureBytes: 568_832,
    sound: {
      ...{ kind: 'audio', codec: 'pcm', channels: 2, sampleRate: 48000, layout: null, configuration: null, bitrate: 0 },
    },
    samplesBefore: (n) => sampleAtFrame(n, rate, 48000),
    ...{ frames: 5, rate, start: { frames: 900_000, dropFrame: false }, name: 'Fog Bell' },
    chapters: [{ at: 2, name: 'Bell' }],
    metadata: { title: 'Fog Bell' },
    identity: new Uint8Array(16).fill(7),
  })
  const pieces = [{ at: 0, bytes: units.head }, units.tail]
  for (let n = 0; n < 5; n++)
    pieces.push(
      ...units
        .unit(n, new Uint8Array(568_832), [new Float32Array(1920), new Float32Array(1920)])
        .map((p) => ({ at: p.at, bytes: p.bytes.slice() })),
    )
  const out = new Uint8Array(Math.max(...pieces.map((p) => p.at + p.bytes.length)))
  for (const p of pieces) out.set(p.bytes, p.at)
  return out
}

/** An element of EBML with a size of eight bytes; unknown when there is none. */
function element(id: string, body: Uint8Array, unknown = false): Uint8Array {
  const digits = Uint8Array.from(id.match(/../g)!, (d) => parseInt(d, 16))
  const size = unknown ? Uint8Array.of(0x01, ...Array<number>(7).fill(0xff)) : new Writer().u64(body.length).bytes()
  if (!unknown) size[0] = 1
  return concatBytes([digits, size, body])
}

/** As a recorder writes it that does not know how long it will be. */
function webmFile(): Uint8Array {
  const cluster = (time: number) =>
    element('1F43B675', concatBytes([element('E7', Uint8Array.of(time)), element('A3', new Uint8Array(40))]), true)
  const info = element('1549A966', concatBytes([element('2AD7B1', Uint8Array.of(0x0f, 0x42, 0x40))]))
  const track = element('AE', concatBytes([element('D7', Uint8Array.of(1)), element('86', text('V_VP9'))]))
  const body = concatBytes([info, element('1654AE6B', track), cluster(0), cluster(40)])
  return concatBytes([element('1A45DFA3', element('4282', text('webm'))), element('18538067', body, true)])
}

async function structureOf(source: ByteSource): Promise<Structure> {
  return (await recognised(source))!.structure!
}

/** Every part of a file, those within others behind them. */
async function everyPart(source: ByteSource, of: Part | null = null): Promise<Part[]> {
  const s = await structureOf(source)
  const out: Part[] = []
  for (let from: number | null | undefined; from !== null;) {
    const { parts, next }: { parts: readonly Part[]; next: number | null } = await partsOf(s, source, of, from)
    for (const p of parts) out.push(p, ...(p.within === null ? [] : await everyPart(source, p)))
    from = next
  }
  return out
}

const said = (fields: readonly PartField[]) => Object.fromEntries(fields.map((f) => [f.name, f.value]))

const files = [
  ['MOV', movFile()],
  ['WAV', wavFile()],
  ['MXF', mxfFile()],
  ['WebM', webmFile()],
] as const

describe.each(files)('the parts of a %s file', (_, bytes) => {
  const source = memorySource(bytes, 'file')
  it('follow each other without a gap, from its first byte to its last, and within each other', async () => {
    const all = await everyPart(source)
    expect(all.length).toBeGreaterThan(7)
    const groups = new Map<string, Part[]>()
    for (const p of all) {
      const key = p.of ? `${p.of.name} ${p.of.offset}` : 'file'
      groups.set(key, [...(groups.get(key) ?? []), p])
    }
    for (const [key, parts] of groups) {
      const of = all.find((p) => `${p.name} ${p.offset}` === key)
      let at = of ? of.within! : 0
      for (const p of parts) {
        expect([key, p.offset, p.fault]).toEqual([key, at, null])
        at += p.size
      }
      expect([key, at]).toEqual([key, of ? of.offset + of.size : bytes.length])
    }
  })
  it('are all known here, and say what they hold', async () => {
    const s = await structureOf(source)
    const all = await everyPart(source)
    expect(all.filter((p) => p.label === '')).toEqual([])
    for (const p of all) for (const f of await fieldsOf(s, source, p)) expect(f.value).not.toMatch(/they end before/)
  })
  it('are told with what is missing where it was cut off', async () => {
    const short = memorySource(bytes.subarray(0, bytes.length - 20), 'file')
    const all = await everyPart(short)
    if (bytes === files[3][1]) return
    expect(all.filter((p) => p.fault).length).toBeGreaterThan(0)
    for (const p of all) expect(p.offset + p.size).toBeLessThanOrEqual(bytes.length - 20)
  })
})

describe('what parts say', () => {
  const fieldsAt = async (bytes: Uint8Array, find: (p: Part) => boolean) => {
    const source = memorySource(bytes, 'file')
    return said(await fieldsOf(await structureOf(source), source, (await everyPart(source)).find(find)!))
  }
  const named = (label: string) => (p: Part) => p.label === label
  it('in MOV', async () => {
    expect(await fieldsAt(movFile(), named('media header'))).toMatchObject({ created: 'not told', duration: '5' })
    expect(await fieldsAt(movFile(), (p) => p.of?.name === 'stsd')).toEqual({ raster: '32×16', depth: '24' })
    expect(await fieldsAt(movFile(), named('channel layout'))).toEqual({ channels: 'L R' })
    expect(await fieldsAt(movFile(), named('sample sizes'))).toMatchObject({ samples: '5' })
  })
  it('in WAV', async () => {
    expect(await fieldsAt(wavFile(), named('format'))).toMatchObject({ channels: '2', bits: '24' })
    expect(await fieldsAt(wavFile(), named('broadcast extension'))).toMatchObject({
      ...{ description: 'Fog Bell', 'time reference': '1728000000', loudness: '-23.00', 'coding history': 'A=PCM' },
    })
    expect(await fieldsAt(wavFile(), named('cue points'))).toEqual({ 'cue points': '1: 1 at 480' })
    expect(await fieldsAt(wavFile(), named('name of a cue point'))).toEqual({ 'cue point': '1', name: 'Bell' })
  })
  it('in MOV, of how players place its pictures', async () => {
    const bytes = movFile()
    const header = (p: Part) => p.name === 'tkhd'
    expect(await fieldsAt(bytes, header)).toMatchObject({ enabled: 'yes', placed: 'as it is', width: '32' })
    const quarter = [0, 1, 0, -1, 0].reduce((w, v) => w.i32(v * 65536), new Writer()).bytes()
    bytes.set(quarter, Buffer.from(bytes).indexOf('tkhd') + 4 + 52)
    expect(await fieldsAt(bytes, header)).toMatchObject({ placed: 'turned by 90° clockwise' })
  })
  it('in MP4, of codecs, what their configurations say', async () => {
    // High 4:2:2 Intra of 80×64 by our own encoder, and AAC of 44.1 kHz
    const [sps, pps] = [7, 8].map((type) => unitsOf(intraUnit()).find((u) => (u[0]! & 31) === type)!)
    const avc = new Writer()
      .raw(Uint8Array.of(1, 122, 0x10, 41, 0xff, 0xe1))
      .u16(sps!.length)
      .raw(sps!)
    const video = { kind: 'video', codec: 'h264', width: 80, height: 64, pixelAspect: '1:1', colour: bt709 } as const
    const audio = { kind: 'audio', codec: 'aac', channels: 2, sampleRate: 44_100, layout: null, bitrate: 0 } as const
    const one = { sizes: { constant: 9, count: 1 }, durations: { constant: 1 }, chunks: [{ offset: 0, samples: 1 }] }
    const { head } = mp4.layout!('mp4', {
      ...{ frames: 1, rate: makeRate(25), start: { frames: 0, dropFrame: false }, chapters: [], dataSize: 9 },
      tracks: [
        {
          essence: { ...video, scan: 'progressive', configuration: avc.u8(1).u16(pps!.length).raw(pps!).bytes() },
          ...{ ...one, timescale: 25 },
        },
        { essence: { ...audio, configuration: Uint8Array.of(0x12, 0x10) }, ...one, timescale: 44_100 },
      ],
    })
    const bytes = concatBytes([head, new Uint8Array(9)])
    expect(await fieldsAt(bytes, (p) => p.name === 'avcC')).toMatchObject({
      ...{ 'bytes of a length': '4', 'sequence parameter sets': '1', profile: 'High 4:2:2 Intra', level: '4.1' },
      ...{ raster: '80×64', scan: 'progressive', chroma: '4:2:2', bits: '10', colour: 'BT.709', rate: '25' },
    })
    expect(await fieldsAt(bytes, (p) => p.name === 'esds')).toMatchObject({
      ...{ 'object type': '0x40', channels: '2', 'sample rate': '44100 Hz' },
    })
  })
  it('in MXF', async () => {
    expect(await fieldsAt(mxfFile(), named('timecode'))).toMatchObject({
      ...{
        definition: 'timecode',
        duration: '5',
        'start timecode': '900000',
        'timecode base': '25',
        'drop frame': 'no',
      },
    })
    expect(await fieldsAt(mxfFile(), named('pack of the header partition'))).toMatchObject({
      'operational pattern': 'OP1a',
    })
    expect(await fieldsAt(mxfFile(), named('random index'))).toEqual({
      partitions: expect.stringMatching(/^4: body/) as string,
    })
    expect(await fieldsAt(mxfFile(), named('material package'))).toMatchObject({ 'package name': 'Fog Bell' })
  })
  it('in WebM, whose clusters do not say how long they are', async () => {
    const source = memorySource(webmFile(), 'file')
    const clusters = (await everyPart(source)).filter(named('cluster'))
    expect(clusters).toHaveLength(2)
    expect(clusters[0]!.offset + clusters[0]!.size).toBe(clusters[1]!.offset)
    expect(await fieldsAt(webmFile(), named('codec'))).toEqual({ codec: 'V_VP9' })
  })
})

describe('long and broken files', () => {
  it('are given a number of parts at a time', async () => {
    const box = new Writer().u32(12).tag('free').u32(0).bytes()
    const bytes = concatBytes([
      new Writer().u32(16).tag('ftyp').tag('isom').u32(0).bytes(),
      ...Array<Uint8Array>(450).fill(box),
    ])
    const source = memorySource(bytes, 'file')
    const s = await structureOf(source)
    const first = await partsOf(s, source, null)
    expect([first.parts.length, first.next]).toEqual([partsAtATime, 16 + 12 * (partsAtATime - 1)])
    expect(await everyPart(source)).toHaveLength(451)
  })
  it('say where nothing that is known begins', async () => {
    const source = memorySource(concatBytes([movFile(), new Uint8Array(30)]), 'file')
    const last = (await everyPart(source)).at(-1)!
    expect(last).toMatchObject({ size: 30, fault: expect.stringContaining('No part begins') as string })
  })
  it.each(files)('of %s never hang, and give parts within the file or a problem', async (_, whole) => {
    const bytes = whole.subarray(0, 12_000)
    const next = seeded(5)
    for (let n = 0; n < 2500; n++) {
      const source = memorySource(mutate(bytes, next), 'damaged')
      try {
        const container = await recognised(source)
        if (!container?.structure) continue
        for (const p of (await everyPart(source)).slice(0, 40)) {
          expect(p.offset + p.size).toBeLessThanOrEqual(source.size)
          await fieldsOf(container.structure, source, p)
        }
      } catch (e) {
        if (!(e instanceof ProblemError)) throw e
      }
    }
  })
})
