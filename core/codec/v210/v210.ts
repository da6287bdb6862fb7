import { packV210, packV210From420, unpackV210, v210Stride, type Planes10 } from '../../kernel/v210'
import { toChroma422, toDepth, type Picture } from '../../picture/picture'

/** Bytes of one picture. */
export function v210Size(width: number, height: number): number {
  return v210Stride(width) * height
}

/** Packs a picture as 4:2:2 10 bit, three samples in each little-endian word. */
export function encodeV210(picture: Picture, into?: Uint8Array): Uint8Array {
  const { width, height, planes } = picture
  const out = into ?? new Uint8Array(v210Size(width, height))
  const [y, u, v] = planes
  const usual = picture.chroma === '4:2:0' && width % 2 === 0
  if (usual && y instanceof Uint8Array && u instanceof Uint8Array && v instanceof Uint8Array)
    packV210From420([y, u, v], width, height, out)
  else packV210(toChroma422(toDepth(picture, 10)).planes as Planes10, width, height, out)
  return out
}

/** Unpacks one v210 picture. `bytes` must hold {@link v210Size} bytes. */
export function decodeV210(bytes: Uint8Array, width: number, height: number): Picture {
  const aligned = bytes.byteOffset % 4 === 0 ? bytes : bytes.slice()
  const cw = (width + 1) >> 1
  const planes: Planes10 = [new Uint16Array(width * height), new Uint16Array(cw * height), new Uint16Array(cw * height)]
  unpackV210(aligned, width, height, planes)
  return { width, height, chroma: '4:2:2', bitDepth: 10, planes }
}
