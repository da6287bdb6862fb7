import { encodePcm } from '../core/codec/pcm/pcm'
import { encodeV210 } from '../core/codec/v210/v210'
import { blackPicture, type Picture } from '../core/picture/picture'
import { fileSink } from '../engine/storage/disk'
import { plainMov } from './plainmov'

// Small uncompressed files at 25 frames a second whose shots can be told apart, for cuts that are made anew.

/** A scene, its first frame that is shown, and how many are. Scene 0 is black and silent, those below stand still. */
export type SceneShot = readonly [scene: number, first: number, frames: number]

const [width, height] = [96, 54]
const patch = (x: number, y: number, scene: number) =>
  (Math.imul(x * 37 + y * 53 + scene * 71, 0x9e3779b1) >>> 24) % 150

/** Patches of a scene's own size, over which something moves. */
function draw(scene: number, k: number): Picture {
  const p = blackPicture(width, height, '4:2:2', 10)
  if (scene === 0) return p
  const at = scene < 0 ? 0 : k
  const [x0, y0] = [(at * 2 + Math.abs(scene) * 31) % width, (at + Math.abs(scene) * 17) % height]
  const [across, down] = [5 + (Math.abs(scene) % 7), 4 + (Math.abs(scene) % 5)]
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const thing = (x - x0) ** 2 + (y - y0) ** 2 < 90
      const ground = 40 + patch(Math.floor(x / across), Math.floor(y / down), scene)
      p.planes[0][y * width + x] = (thing ? 220 : ground) << 2
    }
  return p
}

/** Writes a MOV of shots one after the other, with a tone wherever they are not black, the same in each track. */
export async function makeScenes(file: string, shots: readonly SceneShot[], soundTracks = 1): Promise<void> {
  const frames = shots.flatMap(([scene, first, n]) => Array.from({ length: n }, (_, i) => [scene, first + i] as const))
  const { head, picture, step } = plainMov(width, height, frames.length, 90_000, 'progressive', soundTracks)
  const tone = Float32Array.from({ length: 1920 }, (_, i) => 0.1 * Math.sin((2 * Math.PI * 1000 * i) / 48000))
  const silence = new Float32Array(1920)
  const sink = await fileSink(file)
  await sink.write(0, head)
  for (const [n, [scene, k]] of frames.entries()) {
    const sound = scene === 0 ? silence : tone
    await sink.write(head.length + n * step, encodeV210(draw(scene, k)))
    const block = encodePcm([sound, sound], 24, false)
    for (let t = 0; t < soundTracks; t++) await sink.write(head.length + n * step + picture + t * block.length, block)
  }
  await sink.finish()
}
