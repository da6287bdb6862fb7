import { pictureCodec } from '../../../core/codec/registry'
import { fail } from '../../../core/problem'
import { pictureKilobits } from '../../../core/recipe/trial'
import type { DeliverableStep } from '../context'
import { picturesOf } from '../making/frames'
import { looksForProof, unitSummer } from '../making/looks'
import { encodePiece, type Piece } from '../making/pieces'

/** Encodes one segment of pictures, beginning with a sync sample so that segments can be joined. */
export async function encodeSegment(step: DeliverableStep): Promise<Piece> {
  const { item, range } = step
  const v = item.output.video!
  const bitrate = pictureKilobits(item.recipe) * 1000
  const settings = {
    width: v.width,
    height: v.height,
    rate: v.rate,
    bitrate,
    ...(v.colour ? { colour: v.colour } : {}),
  }
  const encoder = pictureCodec(v.codec)!.encode!.open(settings, step.codecs)
  const looks = looksForProof(step)
  const sum = await unitSummer()
  let sums = ''
  const pictures = async function* () {
    let done = 0
    for await (const { n, picture } of picturesOf(step)) {
      looks.take(n, picture)
      yield picture
      step.progress(done++)
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
  return { ...piece, coded: { sums, looks: [await looks.save()] } }
}
