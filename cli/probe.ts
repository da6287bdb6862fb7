import { defineCommand } from 'citty'
import { openMedia } from '../core/container/registry'
import { soundCodec } from '../core/codec/registry'
import { dataText } from '../core/media/ancillary'
import { untoldText } from '../core/media/stated'
import type { MediaInfo } from '../core/media/media'
import { rateLabel, rateText } from '../core/time/rate'
import { openFile } from '../engine/storage/disk'
import { bytesText, plural } from '../core/text'
import { attempt } from './attempt'

/** A file's facts as JSON: rates as `num/den`. */
export function probeJson(info: MediaInfo): Record<string, unknown> {
  return {
    ...info,
    timecode: info.timecode && {
      start: info.timecode.start,
      rate: rateText(info.timecode.rate),
      dropFrame: info.timecode.dropUntold ? null : info.timecode.dropFrame,
    },
    video: info.video.map((v) => ({
      ...{ ...v, rate: rateText(v.rate) },
      ...(v.ownRate ? { ownRate: rateText(v.ownRate) } : {}),
    })),
  }
}

function probeText(info: MediaInfo): string {
  const index = info.indexAt === 'fragments' ? 'in fragments' : `at the ${info.indexAt}`
  const frames = info.durationFrames === null ? '' : `${plural(info.durationFrames, 'frame')}, `
  const { timecode } = info
  const count = timecode?.dropUntold ? ' (drop-frame or not is not told)' : timecode?.dropFrame ? ' drop-frame' : ''
  const lines = [
    `${info.container.toUpperCase()}, index ${index}, ${bytesText(info.size)}`,
    `duration   ${frames}${info.durationSeconds.toFixed(3)} s`,
    `timecode   ${timecode ? `${timecode.start} at ${rateLabel(timecode.rate)}${count}` : 'none'}`,
  ]
  for (const v of info.video)
    lines.push(
      `pictures   ${v.codec}${v.profile ? ` ${v.profile}` : ''}${v.level ? ` level ${v.level}` : ''}, ` +
        `${v.width}x${v.height}, ` +
        `${rateLabel(v.rate)}, ${v.scan}, ${v.chroma} ${v.bitDepth} bit, pixel aspect ${v.pixelAspect}` +
        (v.untold ? ` (its ${untoldText(v)} taken as usual, not told)` : ''),
    )
  for (const a of info.audio)
    lines.push(
      `sound      ${a.codec}, ${plural(a.channels, 'channel')}${a.layout ? ` (${a.layout})` : ''}, ` +
        `${a.sampleRate} Hz${soundCodec(a.codec)?.keepsDepth ? `, ${a.bitDepth} bit` : ''}`,
    )
  for (const d of info.data ?? []) lines.push(`carries    ${dataText(d)}`)
  for (const p of info.problems) lines.push(`note       ${p.message}`)
  return lines.join('\n')
}

export const probeCommand = defineCommand({
  meta: { name: 'probe', description: 'What a file is, read from its headers and index.' },
  args: {
    file: { type: 'positional', required: true, description: 'media file' },
    json: { type: 'boolean', description: 'as JSON' },
  },
  run: ({ args }) =>
    attempt(async () => {
      const source = await openFile(args.file, args.file)
      const { info } = await openMedia(source)
      await source.close()
      process.stdout.write(`${args.json ? JSON.stringify(probeJson(info), null, 2) : probeText(info)}\n`)
      return 0
    }),
})
