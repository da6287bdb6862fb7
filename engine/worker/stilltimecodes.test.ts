import { mkdirSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, describe, expect, it } from 'vitest'
import { bt709 } from '../../core/media/colour'
import { stillWriting } from '../../core/stills/registry'
import { makeRate, type Rate } from '../../core/time/rate'
import { formatTimecode } from '../../core/time/timecode'
import { scratchFolder } from '../../tests/fixtures'
import { stillLibrary } from '../storage/stilllibrary'
import { openMediaFile } from '../storage/mediafile'
import { measureFile } from './measurefile'

// The timecode of each still of a run, followed from the first to the last.

const { folder, remove } = scratchFolder()
afterAll(remove)

/** A run of small stills whose labels count these frames. */
async function runOf(name: string, kind: string, counts: readonly number[], rate: Rate, dropFrame = false) {
  const [format, writing] = stillWriting(kind)
  const [end] = format.extensions
  mkdirSync(path.join(folder, name))
  const picture = { width: 16, height: 8, rgb: new Float32Array(16 * 8 * 3).fill(0.4) }
  for (const [n, count] of counts.entries()) {
    const file = `x.${String(n).padStart(4, '0')}${end}`
    const place = { name: file, rate, timecode: formatTimecode(count, { rate, dropFrame }), position: n, length: 9 }
    const told = { ...place, reel: '', show: '', date: '', colour: bt709, pixelAspect: '1:1', interlaced: false }
    writeFileSync(path.join(folder, name, file), await writing.write(picture, told, stillLibrary))
  }
  const last = String(counts.length - 1).padStart(4, '0')
  return path.join(folder, name, `x.[0000-${last}]${end}`)
}
async function breaksOf(...run: Parameters<typeof runOf>) {
  const { value, text } = (await measureFile(await runOf(...run)))['timecode-breaks']!
  return [value, text]
}
const from = (first: number, count: number) => Array.from({ length: count }, (_, i) => first + i)

describe('the timecode of stills', () => {
  const rate = makeRate(25)
  it('is followed from one to the next', async () => {
    const whole = 'none in its stills, in 30 frames'
    expect(await breaksOf('dpx', 'dpx-10', from(90_000, 30), rate)).toEqual([0, whole])
    expect(await breaksOf('exr', 'exr-none', from(90_000, 30), rate)).toEqual([0, whole])
  })
  it('breaks where one is missing, is there twice, or says something else', async () => {
    const missing = [...from(90_000, 10), ...from(90_011, 10)]
    expect(await breaksOf('missing', 'dpx-10', missing, rate)).toEqual([
      ...[1, '1 break in its stills, first at 01:00:00:10'],
    ])
    const twice = [...from(90_000, 10), ...from(90_009, 10)]
    expect((await breaksOf('twice', 'exr-none', twice, rate))[0]).toBe(1)
    expect((await breaksOf('other', 'dpx-10', [...from(100, 5), 177, ...from(106, 5)], rate))[0]).toBe(2)
  })
  it('may leave labels out in a DPX, which cannot say that it does', async () => {
    const ntsc = makeRate(30000, 1001)
    expect((await breaksOf('dropped', 'dpx-10', from(1790, 30), ntsc, true))[0]).toBe(0)
    expect((await breaksOf('whole', 'dpx-10', from(1790, 30), ntsc))[0]).toBe(0)
    expect((await breaksOf('said', 'exr-none', from(1790, 30), ntsc, true))[0]).toBe(0)
  })
  it('begins at midnight where the next still goes on from there, else it is not said', async () => {
    expect(await breaksOf('unsaid', 'dpx-10', [0, 0, 0, 0], rate)).toEqual([
      ...[null, 'there is no timecode that can be followed'],
    ])
    expect((await breaksOf('midnight', 'dpx-10', from(0, 30), rate))[0]).toBe(0)
    // a format that has a place for it says it
    expect((await breaksOf('zero', 'exr-none', [0, 0, 0], rate))[0]).toBe(2)
  })
  it('is none where a format has no place for it', async () => {
    expect(await breaksOf('png', 'png-8', from(90_000, 5), rate)).toEqual([
      ...[null, 'there is no timecode that can be followed'],
    ])
  })
  it('is known by a few of them as they are opened: where it jumps, and whether labels are left out', async () => {
    const opened = async (...run: Parameters<typeof runOf>) => {
      const { start, dropFrame, jumps } = (await openMediaFile(await runOf(...run), 'x')).info.timecode!
      return [start, dropFrame, jumps]
    }
    expect(await opened('runs', 'dpx-10', from(90_000, 30), rate)).toEqual(['01:00:00:00', false, []])
    const cut = [...from(90_000, 17), ...from(90_100, 13)]
    expect(await opened('cut', 'exr-none', cut, rate)).toEqual(['01:00:00:00', false, [{ at: 17, count: 90_100 }]])
    const ntsc = makeRate(30000, 1001)
    expect(await opened('left-out', 'dpx-10', from(1790, 30), ntsc, true)).toEqual(['00:00:59;20', true, []])
    expect(await opened('in', 'dpx-10', from(1790, 30), ntsc)).toEqual(['00:00:59:20', false, []])
    expect(await opened('short', 'dpx-10', from(1700, 30), ntsc, true)).toEqual(['00:00:56:20', false, []])
  })
})
