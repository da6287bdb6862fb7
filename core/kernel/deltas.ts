import { kernel } from './kernel'

// What goes before deflating (OpenEXR): the even bytes before the odd ones, and of each its difference to the one
// before, counted from 128. Each plainly, and by the kernel where there is one; both the same.

export function toDeltasPlain(bytes: Uint8Array): Uint8Array {
  const out = new Uint8Array(bytes.length)
  const half = (bytes.length + 1) >> 1
  for (let i = 0; i < bytes.length; i++) out[i & 1 ? half + (i >> 1) : i >> 1] = bytes[i]!
  for (let i = out.length - 1; i > 0; i--) out[i] = out[i]! - out[i - 1]! + 128
  return out
}
export function toDeltas(bytes: Uint8Array): Uint8Array {
  const fast = kernel()
  if (!fast || bytes.length === 0) return toDeltasPlain(bytes)
  const out = new Uint8Array(bytes.length)
  const [from, parts, to] = fast.hold([bytes], bytes.length, bytes.length)
  fast.run.toDeltas(from!, bytes.length, parts!, to!)
  fast.take(to!, out)
  return out
}

export function fromDeltasPlain(deltas: Uint8Array): Uint8Array {
  const parts = deltas.slice()
  for (let i = 1; i < parts.length; i++) parts[i] = parts[i - 1]! + parts[i]! - 128
  const half = (parts.length + 1) >> 1
  return parts.map((_, i) => parts[i & 1 ? half + (i >> 1) : i >> 1]!)
}
export function fromDeltas(deltas: Uint8Array): Uint8Array {
  const fast = kernel()
  if (!fast) return fromDeltasPlain(deltas)
  const out = new Uint8Array(deltas.length)
  const [from, parts, to] = fast.hold([deltas], deltas.length, deltas.length)
  fast.run.fromDeltas(from!, deltas.length, parts!, to!)
  fast.take(to!, out)
  return out
}
