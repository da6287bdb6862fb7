import { describe, expect, it } from 'vitest'
import { packTable, throughTable } from '../../kernel/table'
import { ProblemError } from '../../problem'
import { readTable } from './registry'
import type { LookUpTable } from './table'

const through = (t: LookUpTable, ...c: [number, number, number]) => {
  const out = Float32Array.from(c)
  throughTable(packTable(t.stages), out)
  return [...out].map((v) => Math.round(v * 1e5) / 1e5)
}
const problem = (text: string) => {
  try {
    readTable(text, 'x')
  } catch (e) {
    if (e instanceof ProblemError) return [e.problem.code, e.problem.message, e.problem.where]
    throw e
  }
  return null
}

/** The corners of a cube whose red is halved and whose blue is what green was: red changes first. */
const corners = Array.from({ length: 8 }, (_, i) => `${(i & 1) / 2} 0.25 ${(i >> 1) & 1}`).join('\n')

describe('plain-text tables', () => {
  it('hold cubes in which red changes first', () => {
    const t = readTable(`# made by hand\nTITLE "Half red"\n\nLUT_3D_SIZE 2\n${corners}\n`, 'a.cube')
    expect([t.name, t.shape]).toEqual(['Half red', '2³'])
    expect(through(t, 1, 0, 0.7)).toEqual([0.5, 0.25, 0])
    expect(through(t, 0.5, 0.3, 0.9)).toEqual([0.25, 0.25, 0.3])
  })
  it('hold curves, over the domain they say, and curves in front of a cube', () => {
    const curve = 'DOMAIN_MIN -1 0 0\nDOMAIN_MAX 1 2 1\nLUT_1D_SIZE 3\n0 0 1\n.5 1e-1 0.5\n1 2 0\n'
    const t = readTable(curve, 'a.cube')
    expect(t.shape).toBe('3 × 3')
    expect([through(t, 0, 1, 0.25), through(t, -9, 9, 9)]).toEqual([
      [0.5, 0.1, 0.75],
      [0, 2, 0],
    ])
    const both = readTable(`LUT_1D_SIZE 2\nLUT_3D_SIZE 2\n1 0 0\n0 1 1\n${corners}`, 'a.cube')
    expect(both.shape).toBe('3 × 2, 2³')
    expect(through(both, 0.75, 0.5, 0)).toEqual([0.125, 0.25, 0.5])
    // each with a range of its own
    const ranges = 'LUT_1D_INPUT_RANGE 0 2\nLUT_3D_INPUT_RANGE 0 4\n'
    const own = readTable(`${ranges}LUT_1D_SIZE 2\nLUT_3D_SIZE 2\n0 0 0\n2 2 2\n${corners}`, 'a.cube')
    expect(through(own, 2, 1, 1)).toEqual([0.25, 0.25, 0.25])
  })
  it.each([
    ['LUT_3D_SIZE 2\n0 0 0\n', 'table.damaged', 'It has 1 of the 8 points it says.', 'x'],
    [`LUT_3D_SIZE 2\n${corners}\n0 0 0`, 'table.damaged', 'It has more points than the 8 it says.', 'x, line 10'],
    ['LUT_3D_SIZE 1000\n', 'table.damaged', 'A table cannot be read: a cube has 2 to 129 points a side.', 'x, line 1'],
    ['LUT_1D_SIZE 2\n0 0 0\n0 nan 0', 'table.damaged', 'A point of a table has three numbers.', 'x, line 3'],
    ['LUT_1D_SIZE 2\nGAMMA 2\n', 'table.damaged', 'A table cannot be read: “GAMMA” is not known here.', 'x, line 2'],
    [
      'LUT_1D_SIZE 2\nDOMAIN_MIN 1 0 0\n0 0 0\n1 1 1',
      'table.damaged',
      'Its domain ends where it begins, or before.',
      'x',
    ],
  ])('of %j are refused', (text, ...expected) => expect(problem(text)).toEqual(expected))
})

const list = (...nodes: string[]) =>
  `<?xml version="1.0"?><ProcessList xmlns="urn:x" id="a1" name="Ferry" compCLFversion="3.0">
  <Description>for tests</Description>${nodes.join('')}</ProcessList>`
const node = (kind: string, inner: string, depths = ['32f', '32f'], more = '') =>
  `<${kind} inBitDepth="${depths[0]}" outBitDepth="${depths[1]}" ${more}>${inner}</${kind}>`
const array = (dim: string, numbers: string) => `<Array dim="${dim}">${numbers}</Array>`

describe('tables in Common LUT Format', () => {
  it('are nodes one after the other, in numbers of their depths', () => {
    const rows = array('3 4', '0 1 0 102.3  1 0 0 0  0 0 1 0')
    const swap = node('Matrix', rows, ['10i', '10i'])
    const curve = node('LUT1D', array('3 1', '0 512 1023'), ['10i', '10i'])
    const t = readTable(list(swap, curve), 'a.clf')
    expect([t.name, t.shape]).toEqual(['Ferry', 'matrix, 3 × 3'])
    const half = 512 / 1023
    const [r, g, b] = through(t, 1, 0.4, 0.25)
    expect([r, g, b].map((v) => v!.toFixed(4))).toEqual([half, 1, half / 2].map((v) => v.toFixed(4)))
  })
  it('hold cubes in which blue changes first', () => {
    const points = Array.from({ length: 8 }, (_, i) => `${(i & 1) * 255} 0 ${(i >> 2) * 127.5}`).join('\n')
    const t = readTable(list(node('LUT3D', array('2 2 2 3', points), ['8i', '8i'])), 'a.clf')
    expect(through(t, 1, 0.3, 0.25)).toEqual([0.25, 0, 0.5])
  })
  it('bring ranges to others, and cut off what lies beyond unless they say not to', () => {
    const ends = (a: number, b: number, c: number, d: number) =>
      [`<minInValue>${a}</minInValue><maxInValue>${b}</maxInValue>`, `<minOutValue>${c}</minOutValue>`].join('') +
      `<maxOutValue>${d}</maxOutValue>`
    const legal = ends(64, 940, 0, 1)
    const cut = readTable(list(node('Range', legal, ['10i', '32f'])), 'a.clf')
    expect(through(cut, 64 / 1023, 940 / 1023, 1)).toEqual([0, 1, 1])
    const open = readTable(list(node('Range', legal, ['10i', '32f'], 'style="noClamp"')), 'a.clf')
    expect(through(open, 1, 0, 502 / 1023)).toEqual([1.09475, -0.07306, 0.5])
    const low = readTable(list(node('Range', '<minInValue>0.1</minInValue><minOutValue>0.1</minOutValue>')), 'a.clf')
    expect(through(low, 0, 0.5, 7)).toEqual([0.1, 0.5, 7])
  })
  it('pass by nodes that are bypassed', () => {
    const t = readTable(list(node('Matrix', array('3 3', '2 0 0 0 2 0 0 0 2'), ['32f', '32f'], 'bypass="true"')), 'a')
    expect(t.stages).toEqual([])
  })
  it.each([
    [
      list(node('LUT1D', `<IndexMap dim="2">0 1</IndexMap>${array('2 1', '0 1')}`)),
      ...['table.other', '“IndexMap” of a node is not read here.', 'x, LUT1D 1'],
    ],
    [
      list(node('LUT1D', array('2 1', '0 1'), undefined, 'hueAdjust="dw3"')),
      ...['table.other', 'Curves that keep hues are not read here.', 'x, LUT1D 1'],
    ],
    [list(node('Log', '')), 'table.other', 'Nodes of kind “Log” are not read here.', 'x, Log 1'],
    [list(), 'table.damaged', 'It has no nodes.', 'x'],
    [list('<Matrix/>'), 'table.damaged', 'It does not say the depth of what goes in and comes out.', 'x, Matrix 1'],
    [
      list(node('Matrix', array('3 3', '1 2'))),
      'table.damaged',
      'A matrix has three rows of three or four numbers.',
      'x, Matrix 1',
    ],
    [list(node('LUT1D', array('2 1', '0 x'))), 'table.damaged', 'Its number 2 is “x”.', 'x, LUT1D 1'],
    [
      list(node('LUT3D', array('2 2 3 3', '0'))),
      'table.damaged',
      'A cube has 2 to 129 points a side, each of three numbers.',
      'x, LUT3D 1',
    ],
    [
      'not a table',
      'table.other',
      'This is no look-up table that is read here: Common LUT Format (.clf) or plain-text cube (.cube).',
      'x',
    ],
  ])('of %j are refused', (text, ...expected) => expect(problem(text)).toEqual(expected))
})

it('damaged ten thousand times each, they are read or refused by a problem', () => {
  const good = [
    `TITLE "a"\nDOMAIN_MIN 0 0 0\nLUT_3D_SIZE 2\n${corners}\n`,
    list(
      node('LUT1D', array('2 3', '0 0 0 1 1 1')),
      node('Range', '<minInValue>0</minInValue><minOutValue>0</minOutValue>'),
    ),
  ]
  let seed = 20261127
  const random = (n: number) => (seed = (Math.imul(seed, 1103515245) + 12345) >>> 0) % n
  const letters = ' \n-.0e9"<>/&#;=LUT_SIZE'
  let refused = 0
  for (let k = 0; k < 20_000; k++) {
    let text = good[k % 2]!
    for (let edits = 1 + random(4); edits > 0; edits--) {
      const at = random(text.length)
      const put = letters.slice(random(letters.length)).slice(0, random(3))
      text = text.slice(0, at) + put + text.slice(at + random(6))
    }
    const said = problem(text)
    if (said) refused++
    else for (const s of readTable(text, 'x').stages) expect(s.kind === 'grid' ? s.points.length : 1).toBeLessThan(1000)
  }
  expect(refused).toBeGreaterThan(1000)
})
