import { readExactly } from '../../core/bytes'
import { decodeStart } from '../../core/codec/web/pictures'
import { openMedia } from '../../core/container/registry'
import type { Media, VideoTrack } from '../../core/media/media'
import type { Frames } from '../../core/time/rate'
import type { PlayerOrder, PlayerWord } from '../lib/player'
import { remoteSource } from './remote'

// Reads a file by ranges, takes it apart and decodes it for the page: see lib/player.ts.

/** Bytes that are fetched at a time. */
const block = 1 << 20
/** Pictures that may be on their way to the page at once; and held of a group that is shown backwards. */
const [mostOut, mostHeld] = [10, 40]
/** Frames whose coded pictures are fed before the one that is wanted next: they may be shown in another order. */
const ahead = 12

const say = (word: PlayerWord, transfer: Transferable[] = []) => postMessage(word, { transfer })

let media: Media | null = null
/** The turn that is played; whatever is of another ends. */
let current = 0
/** Pictures of the turn that the page has not shown yet. */
let out = 0
let wake: (() => void) | null = null

/** Waits until another picture may go to the page. */
async function place(): Promise<void> {
  while (out >= mostOut) await new Promise<void>((resolve) => (wake = resolve))
}

function give(turn: number, frame: Frames, picture: VideoFrame): void {
  if (turn !== current) {
    picture.close()
    return
  }
  out++
  say({ is: 'picture', turn, frame, picture }, [picture])
}

const configOf = ({ info, configuration }: VideoTrack): VideoDecoderConfig => ({
  codec: info.webCodec!,
  codedWidth: info.width,
  codedHeight: info.height,
  ...(configuration ? { description: configuration } : {}),
})

/** Opens the file; gives how many frames it has, or none when it cannot be played here. */
async function open(url: string): Promise<Frames> {
  media = await openMedia(await remoteSource(url, block, true))
  const track = media.video[0]
  if (typeof VideoDecoder === 'undefined' || !track?.info.webCodec) return 0
  return (await VideoDecoder.isConfigSupported(configOf(track))).supported === true ? track.info.frames : 0
}

/** Decodes frames [from, to) in order; `give` gets each that `wanted` says, and has to close it. */
async function decode(
  turn: number,
  from: Frames,
  to: Frames,
  wanted: (frame: Frames) => boolean,
  each: (frame: Frames, picture: VideoFrame) => void,
  ready: () => Promise<void>,
): Promise<void> {
  const track = media!.video[0]!
  const frames = new Map<number, Frames>()
  let failed: DOMException | null = null
  const decoder = new VideoDecoder({
    output(picture) {
      const frame = frames.get(picture.timestamp)
      frames.delete(picture.timestamp)
      if (frame !== undefined && turn === current && wanted(frame)) each(frame, picture)
      else picture.close()
    },
    error(e) {
      failed = e
      // whoever waits for a place in its queue waits no more
      decoder.dispatchEvent(new Event('dequeue'))
    },
  })
  try {
    decoder.configure(configOf(track))
    let fed = decodeStart(track, from) - 1
    let known = from
    for (let n = from; n < to && turn === current && !failed; n++) {
      let last = fed
      for (; known < Math.min(to, n + ahead); known++) {
        const index = track.sampleOfFrame(known)
        frames.set(track.sample(index).pts, known)
        last = Math.max(last, index)
      }
      while (fed < last && turn === current && !failed) {
        const s = track.sample(++fed)
        const data = await readExactly(media!.source, s.offset, s.size)
        while (decoder.decodeQueueSize > 8 && !failed)
          await new Promise((resolve) => decoder.addEventListener('dequeue', resolve, { once: true }))
        if (!failed) decoder.decode(new EncodedVideoChunk({ type: s.sync ? 'key' : 'delta', timestamp: s.pts, data }))
      }
      await ready()
    }
    if (turn === current && !failed) await decoder.flush()
  } finally {
    if (decoder.state !== 'closed') decoder.close()
  }
}

/** Plays backwards: a group of coded pictures at a time, decoded forwards and given from its end. */
async function backwards(turn: number, from: Frames, every: number): Promise<void> {
  const track = media!.video[0]!
  for (let end = from; end >= 0 && turn === current;) {
    const sync = decodeStart(track, end)
    let begin = end
    while (begin > 0 && decodeStart(track, begin - 1) === sync) begin--
    const step = Math.max(every, Math.ceil((end + 1 - begin) / mostHeld))
    const held: { frame: Frames; picture: VideoFrame }[] = []
    const wanted = (frame: Frames) => (end - frame) % step === 0
    const keep = (frame: Frames, picture: VideoFrame) => void held.push({ frame, picture })
    await decode(turn, begin, end + 1, wanted, keep, () => Promise.resolve())
    for (let next = held.pop(); next; next = held.pop()) {
      await place()
      give(turn, next.frame, next.picture)
    }
    end = begin - 1
  }
}

async function play(turn: number, from: Frames, speed: number): Promise<void> {
  const { frames } = media!.video[0]!.info
  const every = Math.max(1, Math.round(Math.abs(speed)))
  if (speed < 0) await backwards(turn, from, every)
  else {
    const wanted = (frame: Frames) => (frame - from) % every === 0
    await decode(turn, from, frames, wanted, (frame, picture) => give(turn, frame, picture), place)
  }
}

/** Decodes frames [from, to) and gives them as stills, no wider than that. */
async function hold(turn: number, from: Frames, to: Frames, width: number): Promise<void> {
  const stills: Promise<void>[] = []
  async function keep(frame: Frames, picture: VideoFrame) {
    const { displayWidth, displayHeight } = picture
    const share = Math.min(1, width / displayWidth)
    const still = await createImageBitmap(picture, {
      resizeWidth: Math.max(1, Math.round(displayWidth * share)),
      resizeHeight: Math.max(1, Math.round(displayHeight * share)),
      resizeQuality: 'medium',
    }).finally(() => picture.close())
    if (turn === current) say({ is: 'still', turn, frame, picture: still }, [still])
    else still.close()
  }
  const all = () => true
  await decode(
    turn,
    from,
    to,
    all,
    (frame, picture) => void stills.push(keep(frame, picture)),
    () => Promise.resolve(),
  )
  await Promise.all(stills)
}

/** Does what takes a turn, and says when it is over. */
function take(turn: number, work: Promise<void>): void {
  work.catch(() => undefined).finally(() => say({ is: 'over', turn }))
}

function begin(turn: number): void {
  current = turn
  out = 0
  wake?.()
}

onmessage = ({ data }: MessageEvent<PlayerOrder>) => {
  if (data.do === 'open')
    open(data.url)
      .catch(() => 0)
      .then((frames) => say({ is: 'open', playable: frames > 0, frames }))
  else if (data.do === 'play') {
    begin(data.turn)
    take(data.turn, play(data.turn, data.from, data.speed))
  } else if (data.do === 'hold') {
    begin(data.turn)
    take(data.turn, hold(data.turn, data.from, data.to, data.width))
  } else if (data.do === 'stop') begin(0)
  else if (data.turn === current) {
    out -= data.count
    wake?.()
  }
}
