import type { ByteSource } from '../../core/bytes'
import type { Container } from '../../core/container/container'
import { openMedia, recognised } from '../../core/container/registry'
import { fieldsOf, partsOf, type Structure } from '../../core/container/structure'
import { damageOf, describedMedia } from '../../core/measure/described'
import type { Evidence } from '../../core/measure/measure'
import { readMeasures } from '../../core/measure/registry'
import { mediaTimeBase, type MediaInfo } from '../../core/media/media'
import { fail, toProblem, type Problem } from '../../core/problem'
import type { InsideAnswer, InsideQuestion, OpenedFile, PartLook, RemoteFile } from '../lib/inside'
import { remoteSource } from './remote'

// Takes a file apart for the page: see lib/inside.ts.

/** Bytes fetched at a time of a file on the server: parts stand far from each other. */
const block = 1 << 16
/** First bytes of a part that are shown. */
const shownBytes = 512

let source: ByteSource | null = null
let structure: Structure | null = null

const local = (file: File): ByteSource => ({
  ...{ name: file.name, size: file.size },
  read: async (at, n) => new Uint8Array(await file.slice(at, at + n).arrayBuffer()),
})

async function open(file: File | RemoteFile): Promise<OpenedFile> {
  const opened =
    file instanceof File ? local(file) : { ...(await remoteSource(file.url, block, false)), name: file.name }
  const container = await recognised(opened)
  if (!container?.structure) {
    // says what is read here
    await openMedia(opened)
    return fail('inside.none', 'Files of this kind are not taken apart here.', opened.name)
  }
  source = opened
  structure = container.structure
  const base = { name: opened.name, size: opened.size, kind: container.brands[0]!.label }
  try {
    const { info } = await openMedia(opened)
    const brand = container.brands.find((b) => b.name === info.container)
    const kind = brand?.label ?? base.kind
    return {
      ...base,
      kind,
      readings: readMeasures(evidenceOf(info, opened.name, container), 'file'),
      problems: info.problems,
    }
  } catch (e) {
    return { ...base, readings: {}, problems: [toProblem(e, opened.name)] }
  }
}

/** What a file's heads tell. That nothing of it is damaged is told only where opening it looks everywhere. */
function evidenceOf(info: MediaInfo, name: string, { structureFault }: Container): Evidence {
  const base = mediaTimeBase(info)
  const damage: readonly Problem[] = damageOf(info)
  return {
    described: describedMedia(info, base),
    ...(damage.length > 0 || !structureFault ? { damage } : {}),
    ...(info.metadata ? { metadata: info.metadata } : {}),
    name: { file: name, bad: null },
  }
}

async function answer(q: InsideQuestion): Promise<OpenedFile | PartLook | Awaited<ReturnType<typeof partsOf>>> {
  if (q.ask === 'open') return open(q.file)
  if (!source || !structure) return fail('inside.closed', 'No file is open.')
  if (q.ask === 'parts') return partsOf(structure, source, q.of, q.from ?? undefined)
  const { part } = q
  const [fields, bytes] = await Promise.all([
    fieldsOf(structure, source, part),
    source.read(part.offset, Math.min(part.size, shownBytes)),
  ])
  return { fields, bytes: bytes.slice() }
}

onmessage = ({ data }: MessageEvent<InsideQuestion & { readonly number: number }>) => {
  const { number } = data
  void answer(data).then(
    (ok) => postMessage({ number, ok } satisfies InsideAnswer),
    (e: unknown) => postMessage({ number, problem: toProblem(e) } satisfies InsideAnswer),
  )
}
