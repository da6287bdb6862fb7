/**
 * The NAL units of a byte stream (ITU-T H.264 Annex B), without start codes and the noughts between; nothing where
 * there is no start code.
 */
export function unitsOf(bytes: Uint8Array): Uint8Array[] {
  const out: Uint8Array[] = []
  let from = -1
  for (let i = 0; i + 2 < bytes.length; i++) {
    // a start code is two noughts and a one; where the third byte is more, none can begin before it
    const third = bytes[i + 2]!
    if (third > 1) {
      i += 2
      continue
    }
    if (third !== 1 || bytes[i] !== 0 || bytes[i + 1] !== 0) continue
    if (from >= 0) push(out, bytes, from, i)
    from = i + 3
    i += 2
  }
  if (from >= 0) push(out, bytes, from, bytes.length)
  return out
}

function push(out: Uint8Array[], bytes: Uint8Array, from: number, to: number): void {
  while (to > from && bytes[to - 1] === 0) to--
  if (to > from) out.push(bytes.subarray(from, to))
}
