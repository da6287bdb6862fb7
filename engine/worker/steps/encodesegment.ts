import { traceOf, type Trace } from '../../../core/analysis/trace'
import { pictureCodec } from '../../../core/codec/registry'
import { fail } from '../../../core/problem'
import type { DeliverableStep } from '../context'
import { lookedAt, saveLooks, unitSummer } from '../looks'
import { encodePiece, type Piece } from '../pieces'

/** Encodes one segment of pictures, beginning with a sync sample so that segments can be joined. */
export async function encodeSegment(step: DeliverableStep): Promise<Piece> {
  const { item, source, range } = step
  const v = item.output.video!
  const bitrate = item.recipe.pictureBitrate * 1000
  const settings = {
    width: v.width,
    height: v.height,
    rate: item.timeline.rate,
    bitrate,
    ...(v.colour ? { colour: v.colour } : {}),
  }
  const encoder = pictureCodec(v.codec)!.encode!.open(settings, step.codecs)
  const wanted = new Set(lookedAt(item).map((n) => n + item.region.in))
  const looks: Trace[] = []
  const sum = await unitSummer()
  let sums = ''
  const pictures = async function* () {
    for await (const { frame, picture } of source.pictures().read(range)) {
      const rendered = source.render(picture, frame)
      if (wanted.has(frame)) looks.push(traceOf(rendered))
      yield rendered
      step.progress(frame - range.in)
    }
  }
  const piece = await encodePiece(step, encoder, pictures, (u) => (sums += sum(u.bytes)))
  if (piece.sizes.length !== range.out - range.in)
    fail(
      'encode.count',
      `The encoder gave ${piece.sizes.length} pictures for ${range.out - range.in}.`,
      item.target.path,
      'Run it again; if it happens again, use another recipe.',
    )
  return { ...piece, coded: { sums, looks: [await saveLooks(step, looks)] } }
}
