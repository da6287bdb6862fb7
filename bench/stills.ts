import { convert, convertPlain } from '../core/kernel/convert'
import { systems } from '../core/media/colour'
import type { TableStage } from '../core/kernel/table'
import { fitScan, joinedFields } from '../core/picture/fields'
import { conversionOf, tableConversion } from '../core/picture/convert'
import { toChroma422, toDepth } from '../core/picture/picture'
import { likenessOf } from '../core/picture/likeness'
import { pictureOfRgb, rgbOf } from '../core/picture/rgb'
import { stillWritings } from '../core/stills/registry'
import { makeRate } from '../core/time/rate'
import { drawFrame } from '../demo/reel'
import { stillLibrary } from '../engine/storage/stilllibrary'
import { smallPlan } from '../tests/fixtures'

const count = 12

/** Wall and processor milliseconds that an action takes, each time. */
async function each(action: () => unknown): Promise<string> {
  const [before, began] = [process.cpuUsage(), performance.now()]
  for (let i = 0; i < count; i++) await action()
  const { user, system } = process.cpuUsage(before)
  const wall = (performance.now() - began) / count
  return `${wall.toFixed(0)} ms (${((user + system) / 1000 / count).toFixed(0)} of processor)`
}

/** What stills of 1920×1080 cost to write and to read, beside what any of them costs, R′G′B′ and back; and colour. */
export async function stills(print: (name: string, figures: string) => void): Promise<void> {
  const picture = toDepth(toChroma422(drawFrame(smallPlan({ width: 1920, height: 1080 }), 60)), 10)
  const signal = rgbOf(picture)
  const to = await each(() => rgbOf(picture))
  print('stills: 4:2:2 of 10 bits to R′G′B′, and back', `${to}, ${await each(() => pictureOfRgb(signal, 10))}`)
  const [bt709, , , bt2020] = systems.map((s) => s.colour)
  for (const [name, from] of [
    ['its primaries', bt709!],
    ['its matrix alone', { ...bt2020!, matrix: 1 }],
  ] as const) {
    const by = conversionOf(from, bt2020!)!
    const job = { ...by, planes: picture.planes, width: 1920, height: 1080 }
    const plain = await each(() => convertPlain(job))
    print(`colour: to BT.2020 by ${name}`, `${await each(() => convert(job))}, plainly ${plain}`)
  }
  const points = Float32Array.from({ length: 33 ** 3 * 3 }, (_, i) => (i % 97) / 97)
  const cube: TableStage = { kind: 'grid', low: [0, 0, 0], high: [1, 1, 1], size: 33, points }
  const table = tableConversion(bt709!, bt709!, [cube])
  const tableJob = { ...table, planes: picture.planes, width: 1920, height: 1080 }
  const plainly = await each(() => convertPlain(tableJob))
  print('colour: through a table of 33³', `${await each(() => convert(tableJob))}, plainly ${plainly}`)
  const raster = { width: 1280, height: 720, fit: 'letterbox' } as const
  print('fields: scaled to 720 lines', await each(() => fitScan(picture, raster, 'keep')))
  print('fields: joined', await each(() => joinedFields(picture)))
  const other = joinedFields(picture)
  print('likeness: signal-to-noise, structure', await each(() => likenessOf(picture, other)))
  const told = {
    ...{ name: 'fog.dpx', show: 'Fog', date: '', rate: makeRate(25), timecode: '10:00:00:00', position: 0, length: 1 },
    ...{ reel: '', colour: bt709!, pixelAspect: '1:1', interlaced: false },
  }
  for (const [format, writing] of stillWritings()) {
    const bytes = await writing.write(signal, told, stillLibrary)
    const write = await each(() => writing.write(signal, told, stillLibrary))
    const read = await each(() => format.read(bytes, 'fog', stillLibrary))
    print(`stills: ${writing.name}, ${(bytes.length / 1e6).toFixed(1)} MB`, `write ${write}, read ${read}`)
  }
}
