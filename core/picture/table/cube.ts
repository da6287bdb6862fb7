import type { TableStage } from '../../kernel/table'
import { largestCurve, largestGrid, shapeOf, wrongTable, type TableFormat } from './table'

// The trade's plain-text tables: keywords, then a line of three numbers for each point, that of red changing first.

interface Head {
  title: string
  curve: number
  grid: number
  low: number[]
  high: number[]
  /** Of the curve and of the cube, where they say their own. */
  curveRange: number[] | null
  gridRange: number[] | null
}

/** Numbers of a line; null where a word of it is none. */
function numbersOf(words: readonly string[]): number[] | null {
  const list = words.map((w) => (/^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i.test(w) ? Number(w) : Number.NaN))
  return list.every(Number.isFinite) ? list : null
}

/** Takes one line with a keyword in; says why it cannot. */
function keyword(head: Head, line: string, words: readonly string[]): string | null {
  const numbers = numbersOf(words.slice(1))
  const size = (most: number) =>
    numbers?.length === 1 && Number.isInteger(numbers[0]) && numbers[0]! >= 2 && numbers[0]! <= most
  switch (words[0]) {
    case 'TITLE':
      head.title = line.slice(5).trim().replace(/^"|"$/g, '').slice(0, 200)
      return null
    case 'LUT_1D_SIZE':
      if (!size(largestCurve)) return `a curve has 2 to ${largestCurve} points`
      head.curve = numbers![0]!
      return null
    case 'LUT_3D_SIZE':
      if (!size(largestGrid)) return `a cube has 2 to ${largestGrid} points a side`
      head.grid = numbers![0]!
      return null
    case 'DOMAIN_MIN':
    case 'DOMAIN_MAX':
      if (numbers?.length !== 3) return 'a domain has three numbers'
      head[words[0] === 'DOMAIN_MIN' ? 'low' : 'high'] = numbers
      return null
    case 'LUT_1D_INPUT_RANGE':
    case 'LUT_3D_INPUT_RANGE':
      if (numbers?.length !== 2) return 'a range has two numbers'
      head[words[0] === 'LUT_1D_INPUT_RANGE' ? 'curveRange' : 'gridRange'] = numbers
      return null
    default:
      return `“${words[0]!.slice(0, 40)}” is not known here`
  }
}

/** The points of a cube in the order of the loops, where blue changes first. */
function turned(points: Float64Array, size: number): Float32Array {
  const out = new Float32Array(points.length)
  let from = 0
  for (let b = 0; b < size; b++)
    for (let g = 0; g < size; g++)
      for (let r = 0; r < size; r++) {
        out.set(points.subarray(from, from + 3), ((r * size + g) * size + b) * 3)
        from += 3
      }
  return out
}

export const cube: TableFormat = {
  name: 'cube',
  label: 'plain-text cube',
  extensions: ['.cube'],
  matches: (text) => /^\s*LUT_[13]D_SIZE\s/m.test(text.slice(0, 100_000)),
  read(text, name) {
    const head: Head = {
      ...{ title: '', curve: 0, grid: 0, low: [0, 0, 0], high: [1, 1, 1], curveRange: null, gridRange: null },
    }
    const points: number[] = []
    let number = 0
    for (const raw of text.split(/\r\n|\r|\n/)) {
      number++
      const line = raw.trim()
      if (line === '' || line.startsWith('#')) continue
      const words = line.split(/\s+/)
      const where = `${name}, line ${number}`
      if (/^[A-Z_]/i.test(line)) {
        const why = keyword(head, line, words)
        if (why) wrongTable(`A table cannot be read: ${why}.`, where)
        continue
      }
      const three = numbersOf(words)
      if (three?.length !== 3) wrongTable('A point of a table has three numbers.', where)
      if (points.length / 3 >= head.curve + head.grid ** 3)
        wrongTable(`It has more points than the ${head.curve + head.grid ** 3} it says.`, where)
      points.push(...three)
    }
    const wanted = head.curve + head.grid ** 3
    if (wanted === 0) wrongTable('It does not say how many points it has.', name)
    if (points.length !== 3 * wanted) wrongTable(`It has ${points.length / 3} of the ${wanted} points it says.`, name)
    const all = Float64Array.from(points)
    const stages: TableStage[] = []
    const domainOf = (range: number[] | null, first: boolean) => {
      // where there are both, a domain without a kind is that of what comes first
      const low = range ? Array<number>(3).fill(range[0]!) : first ? head.low : [0, 0, 0]
      const high = range ? Array<number>(3).fill(range[1]!) : first ? head.high : [1, 1, 1]
      if (low.some((v, k) => v >= high[k]!)) wrongTable('Its domain ends where it begins, or before.', name)
      return { low, high }
    }
    if (head.curve) {
      const of = (k: number) => Float64Array.from({ length: head.curve }, (_, i) => all[3 * i + k]!)
      stages.push({ kind: 'curves', ...domainOf(head.curveRange, true), points: [of(0), of(1), of(2)] })
    }
    if (head.grid)
      stages.push({
        kind: 'grid',
        ...domainOf(head.gridRange, head.curve === 0),
        size: head.grid,
        points: turned(all.subarray(3 * head.curve), head.grid),
      })
    return { name: head.title, shape: shapeOf(stages), stages }
  },
}
