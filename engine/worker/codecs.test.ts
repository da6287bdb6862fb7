import path from 'node:path'
import { setFlagsFromString } from 'node:v8'
import { runInNewContext } from 'node:vm'
import { afterAll, expect, it } from 'vitest'
import { openPictures } from '../../core/codec/pictures'
import { openSound } from '../../core/codec/sound'
import type { WebCodecs } from '../../core/codec/web/webcodecs'
import { openMedia } from '../../core/container/registry'
import { scratchFolder, smallReel } from '../../tests/fixtures'
import { openFile } from '../storage/disk'
import { machineCodecs } from './codecs'

const { folder, remove } = scratchFolder()
afterAll(remove)

setFlagsFromString('--expose_gc')
const collect = runInNewContext('gc') as () => void

/** The codecs of this machine, with every decoder that is made of them. */
function counted(): { codecs: WebCodecs; made: WeakRef<object>[] } {
  const web = machineCodecs()!
  const made: WeakRef<object>[] = []
  const counting = <T extends new (...args: never[]) => object>(kind: T): T =>
    new Proxy(kind, {
      construct(target, args) {
        const decoder = Reflect.construct(target, args) as object
        made.push(new WeakRef(decoder))
        return decoder
      },
    })
  const codecs = { ...web, VideoDecoder: counting(web.VideoDecoder), AudioDecoder: counting(web.AudioDecoder) }
  return { codecs, made }
}

it('decoders are let go when they are closed, with the memory they hold', async () => {
  const file = path.join(folder, 'reel.mp4')
  await smallReel(file, { container: 'mp4', sound: 'aac', width: 128, height: 72, bitrate: 100_000 })
  const { codecs, made } = counted()
  for (let i = 0; i < 12; i++) {
    const source = await openFile(file)
    const media = await openMedia(source)
    let frames = 0
    for await (const { frame } of openPictures(media, codecs).read({ in: 3, out: 9 })) frames += frame > 0 ? 1 : 0
    const [heard] = await openSound(media, codecs)!.read(0, 48000)
    expect([frames, heard!.some((v) => v !== 0)]).toEqual([6, true])
    await source.close()
  }
  expect(made.length).toBeGreaterThanOrEqual(24)
  // what was made last may still be on the stack
  const left = () => made.filter((m) => m.deref()).length
  for (let i = 0; i < 50 && left() > 4; i++) {
    await new Promise((r) => setTimeout(r, 20))
    collect()
  }
  expect(left()).toBeLessThanOrEqual(4)
})
