import type { ByteSource } from '../bytes'
import { fail, ProblemError, toProblem } from '../problem'
import { openMp4 } from './mp4/read'
import { openMatroska } from './matroska/read'
import { openWav } from './wav/read'
import type { Media } from '../media/media'

const mp4Starts = new Set(['ftyp', 'moov', 'mdat', 'free', 'skip', 'wide', 'pnot', 'styp', 'uuid', 'moof'])

/** Opens a media file by what it holds, whatever its name says. Throws a problem when it is none we read. */
export async function openMedia(source: ByteSource): Promise<Media> {
  if (source.size === 0)
    fail('media.empty', 'The file is empty.', source.name, 'Copy it again from where it came from.')
  const head = await source.read(0, 12)
  const tag = (at: number) => String.fromCharCode(...head.subarray(at, at + 4))
  try {
    if (['RIFF', 'RF64', 'BW64'].includes(tag(0)) && tag(8) === 'WAVE') return await openWav(source)
    if (head[0] === 0x1a && head[1] === 0x45 && head[2] === 0xdf && head[3] === 0xa3) return await openMatroska(source)
    if (mp4Starts.has(tag(4))) return await openMp4(source)
  } catch (thrown) {
    if (thrown instanceof ProblemError) throw thrown
    if (thrown instanceof RangeError)
      fail(
        'media.damaged',
        'The file holds values that make no sense.',
        source.name,
        'Copy it again from where it came from.',
      )
    throw new ProblemError(toProblem(thrown, source.name))
  }
  fail(
    'media.unknown',
    'This is not a media file that can be read here, whatever its name says: its beginning is neither MP4, MOV, Matroska, WebM, WAV nor RF64.',
    source.name,
    'Choose an MP4, MOV, Matroska, WebM or WAV file. If it should be one, it may be encrypted or damaged: ask for it again.',
  )
}
