import { beatsText } from '../core/analysis/cadence'
import { defineCommand } from 'citty'
import { canDecodePictures, openPictures } from '../core/codec/pictures'
import { closedText, openSound, openTracks } from '../core/codec/sound'
import { readThrough } from '../core/codec/damage'
import { pictureMeters } from '../core/analysis/pictures'
import { tracer } from '../core/analysis/trace'
import { mediaTimeBase } from '../core/media/media'
import { openMedia } from '../core/container/registry'
import { fail } from '../core/problem'
import { makeRate, rateText } from '../core/time/rate'
import { mulDivRound } from '../core/time/samples'
import { formatTimecode } from '../core/time/timecode'
import { machineCodecs } from '../engine/worker/codecs'
import { openFile } from '../engine/storage/disk'
import { analyseWholeSound } from '../engine/worker/steps/analysesound'
import { attempt } from './attempt'
import { Progress } from './terminal'
import { plural } from '../core/text'

/** The pass over one media file: every measure of its pictures and its sound. Ranges are frames from its first. */
async function analyse(file: string) {
  const source = await openFile(file, file)
  try {
    const media = await openMedia(source)
    const codecs = machineCodecs()
    const v = media.info.video[0]
    if (!v && media.info.audio.length === 0)
      fail('media.empty', 'There are neither pictures nor sound in this file.', file, 'Choose another file.')
    let pictures = null
    if (v) {
      if (!canDecodePictures(v.codec, codecs))
        fail(
          'codec.unknown',
          `Pictures of kind “${v.codec}” cannot be decoded here.`,
          file,
          'Ask for H.264, HEVC or uncompressed 4:2:2 pictures.',
        )
      const meters = pictureMeters(v)
      const { take } = tracer()
      const progress = new Progress()
      const all = readThrough(openPictures(media, codecs), { in: 0, out: v.frames }, v)
      for await (const { frame, picture, damaged } of all) {
        meters.feed(take(picture, damaged !== null))
        progress.tell(frame, v.frames)
      }
      progress.clear()
      pictures = meters.result()
    }
    // where no channel is read the rest is told all the same
    const sound = openTracks(media.info.audio).length ? openSound(media, codecs) : null
    const rate = v?.rate ?? makeRate(25)
    const frames = v?.frames ?? (sound ? mulDivRound(sound.samples, rate.num, rate.den * sound.sampleRate) : 0)
    return {
      info: media.info,
      rate,
      frames,
      pictures,
      sound: sound ? await analyseWholeSound(sound, rate, sound.samples, () => undefined) : null,
    }
  } finally {
    await source.close()
  }
}

export const analyseCommand = defineCommand({
  meta: { name: 'analyse', description: 'Cuts, loudness, levels and faults of a media file, in one pass.' },
  args: {
    file: { type: 'positional', required: true, description: 'media file' },
    json: { type: 'boolean', description: 'as JSON' },
  },
  run: ({ args }) =>
    attempt(async () => {
      const { info, rate, frames, pictures, sound } = await analyse(args.file)
      if (args.json) {
        const { levels, ...content } = pictures ?? { levels: null }
        const notHeard = closedText(info.audio)
        const loudness = sound && { ...sound.facts, momentary: sound.momentary, shortTerm: sound.ribbon }
        const head = { file: args.file, rate: rateText(rate), frames }
        const stretches = { cuts: [], black: [], freeze: [], flashes: [], damaged: [], ...content }
        const faults = sound?.faults ?? { silence: [], clicks: [], dropouts: [], data: [], phase: [] }
        const found = { ...head, ...stretches, levels, loudness, ...(notHeard ? { notHeard } : {}), ...faults }
        process.stdout.write(`${JSON.stringify(found, null, 2)}\n`)
        return 0
      }
      const base = { ...(mediaTimeBase(info) ?? { rate, dropFrame: false }), start: info.timecode?.startFrames ?? 0 }
      const at = (n: number) => formatTimecode(base.start + n, base)
      const say = (word: string, list: readonly { in: number; out: number }[]) => {
        for (const r of list)
          process.stdout.write(`${word.padEnd(10)} ${at(r.in)} ${at(r.out)}  ${plural(r.out - r.in, 'frame')}\n`)
      }
      for (const c of pictures?.cuts ?? [])
        process.stdout.write(
          `${c.kind.padEnd(10)} ${at(c.at)}${c.kind === 'cut' ? '' : `  from ${at(c.from)} to ${at(c.to)}`}\n`,
        )
      if (pictures) {
        say('damaged', pictures.damaged ?? [])
        say('black', pictures.black)
        say('freeze', pictures.freeze)
        say('flashes', pictures.flashes)
        for (const first of ['top', 'bottom'] as const)
          say(
            `${first} first`,
            pictures.fields.two.filter((r) => r.first === first),
          )
        for (const b of pictures.cadence)
          process.stdout.write(`cadence    ${at(b.in)} ${at(b.out)}  ${beatsText([b])}\n`)
        say('levels', pictures.levels.excursions)
        process.stdout.write(
          `luma       ${pictures.levels.lowest.toFixed(1)} to ${pictures.levels.highest.toFixed(1)} %\n`,
        )
        const { active } = pictures.levels
        if (active)
          process.stdout.write(
            `picture    ${active.width}x${active.height} at ${active.x},${active.y}, the rest is bars\n`,
          )
      }
      if (sound) {
        const f = sound.facts
        const unsaid = f.coded?.counted ? 'not measured' : 'silence'
        process.stdout.write(
          `loudness   ${f.integrated?.toFixed(1) ?? unsaid} LUFS, range ${f.range?.toFixed(1) ?? '–'} LU, ` +
            `true peak ${f.truePeak?.toFixed(1) ?? '–'} dBTP\n`,
        )
        for (const kind of ['silence', 'clicks', 'dropouts', 'data', 'phase'] as const) say(kind, sound.faults[kind])
      }
      const notHeard = closedText(info.audio)
      if (notHeard) process.stdout.write(`sound      ${notHeard}\n`)
      return 0
    }),
})
