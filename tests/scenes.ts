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

/**
 * Writes a MOV of shots one after the other, with a tone wherever they are not black: in every channel of the tracks
 * that `layouts` names, each as high as `peaks` says.
 */
export async function makeScenes(
  file: string,
  shots: readonly SceneShot[],
  layouts: readonly string[] = ['L R'],
  peaks: readonly number[] = [],
): Promise<void> {
  const frames = shots.flatMap(([scene, first, n]) => Array.from({ length: n }, (_, i) => [scene, first + i] as const))
  const { head, picture, step } = plainMov(width, height, frames.length, 90_000, 'progressive', layouts)
  const tone = (peak: number) =>
    Float32Array.from({ length: 1920 }, (_, i) => peak * Math.sin((2 * Math.PI * 1000 * i) / 48000))
  let channel = 0
  const tracks = layouts.map((names) => names.split(' ').map(() => tone(peaks[channel++] ?? 0.1)))
  const silence = new Float32Array(1920)
  const sink = await fileSink(file)
  await sink.write(0, head)
  for (const [n, [scene, k]] of frames.entries()) {
    await sink.write(head.length + n * step, encodeV210(draw(scene, k)))
    let at = head.length + n * step + picture
    for (const tones of tracks) {
      const block = encodePcm(scene === 0 ? tones.map(() => silence) : tones, 24, false)
      await sink.write(at, block)
      at += block.length
    }
  }
  await sink.finish()
}
