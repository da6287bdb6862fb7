import { open } from 'node:fs/promises'
import path from 'node:path'
import { soundTraceLayout, type SoundShape } from '../../core/analysis/soundtrace'
import type { Fingerprint } from '../../core/media/fingerprint'
import type { FrameRange } from '../../core/time/range'

/** Where the traces of a timeline's sound are kept: one after the other, as 32-bit floats, little-endian. */
export const soundTraceFile = (cache: string, { content }: Fingerprint) => path.join(cache, `${content}.sound`)

/** The kept traces of a range, or null when they are not there. */
export async function readSoundTraces(
  cache: string,
  of: Fingerprint,
  shape: SoundShape,
  range: FrameRange,
): Promise<Float32Array[] | null> {
  const { length } = soundTraceLayout(shape)
  const file = await open(soundTraceFile(cache, of), 'r').catch(() => null)
  try {
    const bytes = new Uint8Array((range.out - range.in) * length * 4)
    const read = await file?.read(bytes, 0, bytes.length, range.in * length * 4)
    if (read?.bytesRead !== bytes.length) return null
    return Array.from(
      { length: range.out - range.in },
      (_, i) => new Float32Array(bytes.buffer, i * length * 4, length),
    )
  } finally {
    await file?.close()
  }
}
