import { Bits, StreamFault } from './bits'
import { intraWeights, scans } from './tables'

// Headers of ITU-T H.262 6.2.2 and 6.2.3.

/** Weights of coefficients, line by line: of intra and other blocks, of luma and of chroma. */
export interface Weights {
  readonly intra: readonly [luma: Uint8Array, chroma: Uint8Array]
  readonly other: readonly [luma: Uint8Array, chroma: Uint8Array]
}

export interface Sequence {
  readonly width: number
  readonly height: number
  /** Display aspect by its code (table 6-3); rate by its code (table 6-4) and how it is changed. */
  readonly aspect: number
  readonly rateCode: number
  readonly rateExtension: readonly [number, number]
  readonly progressive: boolean
  /** 1: 4:2:0, 2: 4:2:2, 3: 4:4:4. */
  readonly chroma: number
  /** Profile and level by their code (8.2 … 8.5); null where there is no extension: MPEG-1. */
  readonly profileLevel: number | null
  readonly weights: Weights
  readonly colour: { readonly primaries: number; readonly transfer: number; readonly matrix: number } | null
}

/** What one picture says of itself. */
export interface PictureHead {
  /** Its place in what is shown, from the first of its group. */
  readonly reference: number
  /** 1 I, 2 P, 3 B. */
  readonly kind: number
  /** By direction, along and down. */
  readonly reaches: readonly (readonly [number, number])[]
  readonly meanPrecision: number
  /** 1 upper field, 2 lower field, 3 frame. */
  readonly structure: number
  readonly upperFirst: boolean
  readonly frameOnly: boolean
  readonly concealed: boolean
  readonly quantiser: number
  readonly intraCodes: boolean
  readonly scan: number
}

/** Numbers behind `00 00 01` that matter here. */
export const starts = { picture: 0x00, sequence: 0xb3, extension: 0xb5, group: 0xb8 } as const

/** A part of a unit behind its start code. */
export interface Part {
  readonly code: number
  /** The byte behind the code, and the one behind the part. */
  readonly from: number
  readonly to: number
}

/** What kind of picture a unit begins with; null where there is none. */
export function kindOf(bytes: Uint8Array): 'I' | 'P' | 'B' | null {
  for (let at = bytes.indexOf(1, 2); at >= 0 && at + 3 < bytes.length; at = bytes.indexOf(1, at + 1))
    if (bytes[at - 1] === 0 && bytes[at - 2] === 0 && bytes[at + 1] === starts.picture)
      return (['I', 'P', 'B'] as const)[((bytes[at + 3]! >> 3) & 7) - 1] ?? null
  return null
}

/** Whether every picture that a unit holds, as the two of a frame of fields, is coded by itself; null of none. */
export function isAlone(bytes: Uint8Array): boolean | null {
  const pictures = partsOf(bytes).filter((p) => p.code === starts.picture)
  return pictures.length ? pictures.every((p) => ((bytes[p.from + 1]! >> 3) & 7) === 1) : null
}

/** Where the parts of a unit are. */
export function partsOf(bytes: Uint8Array): Part[] {
  const out: { code: number; from: number; to: number }[] = []
  for (let at = bytes.indexOf(1, 2); at >= 0; at = bytes.indexOf(1, at + 1)) {
    if (bytes[at - 1] !== 0 || bytes[at - 2] !== 0 || at + 1 >= bytes.length) continue
    const last = out.at(-1)
    if (last) last.to = at - 2
    out.push({ code: bytes[at + 1]!, from: at + 2, to: bytes.length })
  }
  return out
}

/** The timecode in front of a group (6.3.8), and how many pictures before the one that follows it is shown. */
export function groupTimecode(unit: Uint8Array): { readonly label: string; readonly before: number } | null {
  const parts = partsOf(unit)
  const group = parts.find((p) => p.code === starts.group)
  const picture = parts.find((p) => p.code === starts.picture)
  if (!group || !picture || group.to - group.from < 4 || picture.to - picture.from < 2) return null
  const b = new Bits(unit, group.from, group.to)
  b.take(1)
  const [h, m] = [b.take(5), b.take(6)]
  b.take(1)
  const label = [h, m, b.take(6), b.take(6)].map((n) => String(n).padStart(2, '0')).join(':')
  return { label, before: new Bits(unit, picture.from, picture.to).take(10) }
}

function weightsIn(b: Bits): Uint8Array {
  const out = new Uint8Array(64)
  for (let i = 0; i < 64; i++) out[scans[0]![i]!] = b.take(8)
  if (out.includes(0)) throw new StreamFault('a weight of 0', b.at)
  return out
}

const flat = new Uint8Array(64).fill(16)

/** Reads a sequence header. */
export function sequenceHead(bytes: Uint8Array, { from, to }: Part): Sequence {
  const b = new Bits(bytes, from, to)
  const [width, height, aspect, rateCode] = [b.take(12), b.take(12), b.take(4), b.take(4)]
  b.take(18 + 1 + 10 + 1)
  const intra = b.take(1) ? weightsIn(b) : intraWeights
  const other = b.take(1) ? weightsIn(b) : flat
  if (width === 0 || height === 0) throw new StreamFault('a picture without size', b.at)
  return {
    ...{ width, height, aspect, rateCode, rateExtension: [0, 0], progressive: true, chroma: 1 },
    ...{ profileLevel: null, colour: null, weights: { intra: [intra, intra], other: [other, other] } },
  }
}

/** Takes an extension of a sequence header in; what is none of one changes nothing. */
export function sequenceExtended(s: Sequence, bytes: Uint8Array, { from, to }: Part): Sequence {
  const b = new Bits(bytes, from, to)
  const kind = b.take(4)
  if (kind === 1) {
    const profileLevel = b.take(8)
    const progressive = b.take(1) === 1
    const chroma = b.take(2)
    const width = s.width | (b.take(2) << 12)
    const height = s.height | (b.take(2) << 12)
    b.take(12 + 1 + 8 + 1)
    return { ...s, profileLevel, progressive, chroma, width, height, rateExtension: [b.take(2), b.take(5)] }
  }
  if (kind === 2) {
    b.take(3)
    if (!b.take(1)) return s
    return { ...s, colour: { primaries: b.take(8), transfer: b.take(8), matrix: b.take(8) } }
  }
  return s
}

/** Weights that come beside a picture (6.2.3.2). */
export function weightsExtended(w: Weights, bytes: Uint8Array, { from, to }: Part): Weights {
  const b = new Bits(bytes, from, to)
  if (b.take(4) !== 3) return w
  const next = () => (b.take(1) ? weightsIn(b) : null)
  const [intra, other, chromaIntra, chromaOther] = [next(), next(), next(), next()]
  return {
    intra: [intra ?? w.intra[0], chromaIntra ?? intra ?? w.intra[1]],
    other: [other ?? w.other[0], chromaOther ?? other ?? w.other[1]],
  }
}

/** Reads a picture header; it is of MPEG-1 until its extension comes. */
export function pictureHead(bytes: Uint8Array, { from, to }: Part): PictureHead {
  const b = new Bits(bytes, from, to)
  const [reference, kind] = [b.take(10), b.take(3)]
  if (kind < 1 || kind > 3) throw new StreamFault(`a picture of kind ${kind}`, b.at)
  return {
    ...{ reference, kind, reaches: [], meanPrecision: 0, structure: 3, upperFirst: false, frameOnly: true },
    ...{ concealed: false, quantiser: 0, intraCodes: false, scan: 0 },
  }
}

/** Takes the coding extension of a picture in; what is another one changes nothing. */
export function pictureExtended(p: PictureHead, bytes: Uint8Array, { from, to }: Part): PictureHead {
  const b = new Bits(bytes, from, to)
  if (b.take(4) !== 8) return p
  const reaches = [0, 1].map(() => [b.take(4), b.take(4)] as const)
  const [meanPrecision, structure] = [b.take(2), b.take(2)]
  if (structure === 0) throw new StreamFault('a picture that is neither frame nor field', b.at)
  const flag = () => b.take(1) === 1
  const [upperFirst, frameOnly, concealed] = [flag(), flag(), flag()]
  const [quantiser, intraCodes, scan] = [b.take(1), flag(), b.take(1)]
  return {
    ...{ reference: p.reference, kind: p.kind, reaches, meanPrecision, structure, upperFirst, frameOnly, concealed },
    ...{ quantiser, intraCodes, scan },
  }
}
