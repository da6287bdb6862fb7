import { writtenStructure } from '../media/media'
import { asLabelled } from '../media/scan'
import { presentationOfCopy } from '../media/presentation'
import { classOf } from '../codec/h264-intra/class'
import { pictureCodec } from '../codec/registry'
import type { Brand, Container } from '../container/container'
import { containers } from '../container/registry'
import type { Problem } from '../problem'
import { sourceChannels } from '../sound/layout'
import { basisOf, codecsOf, keptLines, linesBytes, needPictures, tracksOf, type OutputRequest } from './output'
import type { RecipeKind } from './recipe'
import { plainSettings } from './settings'

/** Copies the essence of a source untouched into a new file. */
export const rewrap: RecipeKind = {
  kind: 'rewrap',
  label: 'essence copied untouched',
  settings: ['container', 'start', 'handles', 'contactSheet'],
  shipped: { ...plainSettings, id: 'rewrap', name: 'Rewrap', kind: 'rewrap' },
  containers: ['mov', 'mp4', 'mxf'],
  copies: true,
  encodes: [],
  output(request) {
    const { settings, source, range, abilities } = request
    // all its channels, whatever settings of other kinds say
    const b = basisOf({ ...request, settings: { ...settings, channels: 'all', downmix: 'none' } })
    const { audio: a, problems } = b
    // what its pictures are taken for here is not said by a copy of them
    const v = b.video && asLabelled(b.video)
    needPictures(b)
    const from = containers.find((c) => c.brands.some((x) => x.name === source.container))
    const inUnits = from?.units !== undefined && from.layout === undefined
    problems.push(...(inUnits ? unitProblems(request, from.brands[0]!) : movieProblems(request, from)))
    if (v && !v.constantRate)
      problems.push({
        code: 'rewrap.variable-rate',
        message: 'The frames of the source last differently long; a copy cannot bring them to one rate.',
        fix: 'Use a master or a viewing copy.',
      })
    if (source.audio.some((x) => x.lead))
      problems.push({
        code: 'rewrap.late-sound',
        message: 'The sound of the source begins later than its pictures; a copy cannot fill that with silence.',
        fix: 'Use a master or a viewing copy.',
      })
    if (v && settings.contactSheet !== 0 && codecsOf(v).some((c) => !abilities.decodes.includes(c)))
      problems.push({
        code: 'recipe.contact-sheet',
        message: 'Its pictures cannot be decoded here: no contact sheet can be made of them.',
        fix: 'Leave the contact sheet out.',
      })
    const lines = inUnits ? keptLines(source) : {}
    return {
      ...b.shared,
      container: inUnits ? from.brands[0]!.name : settings.container === 'mp4' ? 'mp4' : 'mov',
      ...(inUnits ? { structure: writtenStructure, ...lines } : {}),
      video: v
        ? {
            codec: v.codec,
            profile: v.profile,
            level: v.level,
            intra: v.intra,
            width: v.width,
            height: v.height,
            rate: request.timeline.rate,
            scan: v.scan,
            chroma: v.chroma,
            bitDepth: v.bitDepth,
            pixelAspect: v.pixelAspect,
            colour: v.colour,
            ...presentationOfCopy(v, source.container),
            ...(v.contradictions ? { contradictions: v.contradictions } : {}),
            ...(v.untold ? { untold: v.untold } : {}),
          }
        : null,
      audio: a
        ? {
            codec: a.codec,
            channels: sourceChannels(source),
            sampleRate: a.sampleRate,
            bitDepth: a.bitDepth,
            layout: a.layout,
            tracks: source.audio.length,
            ...(source.audio.length > 1 ? { each: tracksOf(source) } : {}),
          }
        : null,
      bytes:
        Math.ceil((source.size * (range.out - range.in)) / Math.max(1, source.durationFrames ?? b.shared.frames)) +
        linesBytes(lines) * b.shared.frames +
        20_000,
    }
  },
  steps: ({ range }) => [{ key: 'rewrap', kind: 'rewrap', needs: [], range, abilities: [] }],
}

const say = (message: string, fix: string): Problem => ({ code: 'recipe.container', message, fix })

/** What keeps a source from being rewrapped into MOV or MP4. */
function movieProblems({ settings, source }: OutputRequest, from: Container | undefined): Problem[] {
  const out: Problem[] = []
  const v = source.video[0]
  if (!from?.layout)
    out.push(
      say(
        source.container === 'stills'
          ? 'Stills are not copied into a film untouched.'
          : `${from?.name === 'matroska' ? 'Matroska' : 'This'} essence is not rewrapped into MOV or MP4 here.`,
        source.container === 'stills'
          ? 'Use copied stills, a master or a viewing copy.'
          : 'Use a master or a viewing copy.',
      ),
    )
  const allowed = (v && pictureCodec(v.codec)?.calls.mp4?.brands) ?? ['mov', 'mp4']
  if (!['mov', 'mp4'].includes(settings.container))
    out.push(say('This essence is rewrapped into a MOV or an MP4 file.', 'Choose MOV.'))
  else if (settings.container === 'mp4' && (source.container !== 'mp4' || !allowed.includes('mp4')))
    out.push(say('This essence can be rewrapped into MOV only.', 'Choose MOV as container.'))
  return out
}

/** What keeps a source from being rewrapped into its own container, which holds pictures that are all of one size. */
function unitProblems({ settings, source, timeline }: OutputRequest, brand: Brand): Problem[] {
  const v = source.video[0]
  const out: Problem[] = []
  if (settings.container !== brand.name)
    out.push(
      say(`${brand.label} essence is rewrapped into ${brand.label} only.`, `Choose ${brand.label} as container.`),
    )
  const pictures = v && v.codec === 'h264-intra' ? classOf({ ...v, rate: timeline.rate }) : null
  if (v && pictures?.of.profile !== v.profile)
    out.push(say(`Pictures of this kind are not rewrapped into ${brand.label} here.`, 'Use a master.'))
  if (source.audio.some((a) => a.codec !== 'pcm' || a.bitDepth !== 24 || a.channels !== 1))
    out.push(say(`Sound is rewrapped into ${brand.label} as PCM of 24 bits in single channels.`, 'Use a master.'))
  else if (new Set(source.audio.map((a) => a.sampleRate)).size > 1)
    out.push(say(`Sound at several sample rates is not rewrapped into ${brand.label} here.`, 'Use a master.'))
  return out
}
