import { pictureCodec } from '../codec/registry'
import { aspectValue } from '../media/aspect'
import type { Media, MediaInfo, VideoInfo } from '../media/media'
import { edgesText, presentationTexts, silencedText } from '../media/presentation'
import { colourText } from '../media/colour'
import { contradictionText } from '../media/stated'
import type { Problem } from '../problem'
import { listed } from '../text'
import { rateLabel, rateText } from '../time/rate'

/** Whether pictures are of a raster of BT.601, or cut from one: its pixels are never square. */
const isOfStandardLines = ({ width, height }: VideoInfo) =>
  [702, 704, 720].includes(width) && [480, 486, 512, 576, 608].includes(height)

/** What is doubtful of the pictures of a file: stated twice and not alike, stated nowhere, or only nearly so. */
function doubtsOf(v: VideoInfo, where: string): Problem[] {
  const out: Problem[] = (v.contradictions ?? []).map((c) => ({
    code: 'media.contradiction',
    message: `It says two things of its pictures: ${contradictionText(c)}.`,
    where,
    fix: 'Ask which is right: players differ in which of the two they follow.',
  }))
  if (v.untold?.includes('scan') && pictureCodec(v.codec))
    out.push({
      code: 'media.scan-untold',
      message: `It does not say whether its pictures are of one moment or of two fields: they are taken for ${v.scan}.`,
      where,
      fix: 'Where moving edges look torn it is interlaced: say so at the Timelines (Scan), or ask for another copy.',
    })
  if (isOfStandardLines(v) && aspectValue(v.pixelAspect) === 1)
    out.push({
      code: 'media.square-pixels',
      message:
        `It does not say that its pixels are no squares: of ${v.width}×${v.height} that makes pictures ` +
        `${(v.width / v.height).toFixed(2)} times as wide as high, which are usually 4:3 or 16:9.`,
      where,
      fix: 'Ask for a copy that says the shape of its pixels: lists and recipes bring it to other rasters by that.',
    })
  if (v.statedTransfer !== undefined && v.colour)
    out.push({
      code: 'media.preferred-transfer',
      message:
        `Its headers say ${colourText({ ...v.colour, transfer: v.statedTransfer })}; messages in its pictures prefer ` +
        `${colourText(v.colour)}, which is gone by.`,
      where,
      fix: 'Players that do not know such messages show it as its headers say: ask which is meant.',
    })
  if (v.ownRate)
    out.push({
      code: 'media.rate-off',
      message:
        `Its frames run at ${rateText(v.ownRate)} a second by their own times; ` +
        `they are counted at ${rateLabel(v.rate)} (${rateText(v.rate)}).`,
      where,
      fix: 'Ask for a copy at the exact rate, where pictures and sound must stay together for long.',
    })
  return out
}

/** What is doubtful of the sound of a file: what it does not say, and is taken for what is usual. */
function doubtsOfSound({ audio }: MediaInfo, where: string): Problem[] {
  const of = (trait: 'sampleRate' | 'bitDepth') => audio.find((a) => a.untold?.includes(trait))
  const [rate, depth] = [of('sampleRate'), of('bitDepth')]
  const taken = [...(rate ? [`for ${rate.sampleRate} Hz`] : []), ...(depth ? [`for ${depth.bitDepth} bit`] : [])]
  if (taken.length === 0) return []
  return [
    {
      code: 'media.sound-untold',
      message: `It does not say what its sound is: it is taken ${listed(taken)}.`,
      where,
      fix: 'Listen to it, and ask for a copy that says what it is.',
    },
  ]
}

/** What players do otherwise than it is done here, where a file is worked with as it is coded. */
function otherwise({ video, audio }: MediaInfo, where: string): Problem[] {
  const [v] = video
  const shown = v ? presentationTexts(v) : []
  const edges = v ? edgesText(v) : ''
  const off = silencedText(audio)
  const fix = 'Here it is worked with as it is coded: ask for a copy of which that is true for players as well.'
  return [
    ...(shown.length ? [`Players show its pictures otherwise than they are coded: ${listed(shown)}.`] : []),
    ...(edges ? [`Players show its pictures ${edges}.`] : []),
    ...(video.length > 1 ? [`It has ${video.length} tracks of pictures, of which the first is worked with.`] : []),
    ...(off ? [`Players do not play all of its sound: ${off}.`] : []),
  ].map((message) => ({ code: 'media.presentation', message, where, fix }))
}

/** A file with what is doubtful of it among its problems. */
export function withDoubts(media: Media): Media {
  const [v] = media.info.video
  const { name } = media.source
  const doubts = [...(v ? doubtsOf(v, name) : []), ...doubtsOfSound(media.info, name), ...otherwise(media.info, name)]
  return doubts.length ? { ...media, info: { ...media.info, problems: [...media.info.problems, ...doubts] } } : media
}
