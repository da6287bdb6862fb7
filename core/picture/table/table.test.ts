import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { halves } from '../../half'
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
    [list(node('Bloom', '')), 'table.other', 'Nodes of kind “Bloom” are not read here.', 'x, Bloom 1'],
    [list(), 'table.damaged', 'It has no nodes.', 'x'],
    [
      list(...Array.from({ length: 65 }, () => node('Log', '', undefined, 'style="log2"'))),
      ...['table.other', 'It has more than 64 nodes.', 'x'],
    ],
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

/** What a node of a kind makes of values, by a style and elements in it. */
const functionOf = (kind: string, style: string, inner: string) =>
  readTable(list(node(kind, inner, ['32f', '32f'], style && `style="${style}"`)), 'x')
const params = (kind: string, values: Readonly<Record<string, number | string>>) =>
  `<${kind}Params ${Object.entries(values)
    .map(([k, v]) => `${k}="${v}"`)
    .join(' ')}/>`

describe('functions in Common LUT Format', () => {
  // values of the standards that these curves come from, and plain powers of two and ten
  it.each([
    ['Exponent', 'basicFwd', { exponent: 2 }, [0.5, -0.5], [0.25, 0]],
    ['Exponent', 'basicRev', { exponent: 2 }, [0.25, 4], [0.5, 2]],
    ['Exponent', 'basicMirrorFwd', { exponent: 2 }, [-0.5, 3], [-0.25, 9]],
    ['Exponent', 'basicMirrorRev', { exponent: 3 }, [-0.125, 8], [-0.5, 2]],
    ['Exponent', 'basicPassThruFwd', { exponent: 2 }, [-0.5, 0.5], [-0.5, 0.25]],
    ['Exponent', 'basicPassThruRev', { exponent: 2 }, [-0.5, 0.25], [-0.5, 0.5]],
    // IEC 61966-2-1: its middle grey of 8 bits, and its straight part
    ['Exponent', 'monCurveFwd', { exponent: 2.4, offset: 0.055 }, [188 / 255, 0.02], [0.50289, 0.02 / 12.9232]],
    ['Exponent', 'monCurveRev', { exponent: 2.4, offset: 0.055 }, [0.50289, 0.001], [0.73726, 0.0129232]],
    ['Exponent', 'monCurveMirrorFwd', { exponent: 2.4, offset: 0.055 }, [-188 / 255, 1], [-0.50289, 1]],
    ['Exponent', 'monCurveMirrorRev', { exponent: 2.4, offset: 0.055 }, [-0.50289, 0], [-0.73726, 0]],
    ['Exponent', 'monCurveFwd', { exponent: 2, offset: 0 }, [0.5, -1], [0.25, 0]],
    ['Log', 'linToLog', { base: 10, logSideSlope: 0.5, logSideOffset: 1, linSideSlope: 2 }, [0.5, 50], [1, 2]],
    ['Log', 'logToLin', { base: 10, logSideSlope: 0.5, logSideOffset: 1, linSideSlope: 2 }, [1, 2], [0.5, 50]],
    // Recommendation ITU-R BT.2100, hybrid log-gamma, above its break
    [
      'Log',
      'cameraLinToLog',
      {
        ...{ base: Math.E, logSideSlope: 0.17883277, logSideOffset: 0.55991073, linSideSlope: 12 },
        ...{ linSideOffset: -0.28466892, linSideBreak: 1 / 12, linearSlope: 6 },
      },
      [1, 0],
      [1, 0],
    ],
  ])('%s, %s, %j: %j become %j', (kind, style, values, given, expected) => {
    const t = functionOf(kind, style, params(kind, values))
    given.forEach((v, i) => expect(through(t, v, v, v)[0]).toBeCloseTo(expected[i]!, 4))
  })
  it('are those of a channel where they say so', () => {
    const red = params('Exponent', { exponent: 2, channel: 'R' }) + params('Exponent', { exponent: 3, channel: 'B' })
    expect(through(functionOf('Exponent', 'basicFwd', red), 0.5, 0.5, 0.5)).toEqual([0.25, 0.5, 0.125])
    expect(through(functionOf('Log', 'log2', ''), 0.25, 8, 1)).toEqual([-2, 3, 0])
    expect(through(functionOf('Log', 'antiLog10', ''), 2, -1, 0)).toEqual([100, 0.1, 1])
  })
  it('and what they say backwards undo each other, to half a code of 12 bits (property)', () => {
    const shape = params('Log', {
      ...{ base: 2, logSideSlope: 0.0645, logSideOffset: 0.61, linSideSlope: 5.55, linSideOffset: 0.05 },
      linSideBreak: 0.01,
    })
    const grade = '<SOPNode><Slope>1.2 0.9 1</Slope><Offset>0.02 0 -0.1</Offset><Power>1.1 0.8 2</Power></SOPNode>'
    const sat = '<SatNode><Saturation>0.8</Saturation></SatNode>'
    const pairs = [
      [functionOf('Log', 'cameraLinToLog', shape), functionOf('Log', 'cameraLogToLin', shape)],
      [functionOf('ASC_CDL', 'FwdNoClamp', grade + sat), functionOf('ASC_CDL', 'RevNoClamp', grade + sat)],
      [
        functionOf('Exponent', 'monCurveMirrorFwd', params('Exponent', { exponent: 2.4, offset: 0.055 })),
        functionOf('Exponent', 'monCurveMirrorRev', params('Exponent', { exponent: 2.4, offset: 0.055 })),
      ],
    ] as const
    const value = fc.double({ min: 0.13, max: 1, noNaN: true })
    fc.assert(
      fc.property(value, value, value, fc.constantFrom(...pairs), (r, g, b, [forth, back]) => {
        const again = through({ ...forth, stages: [...forth.stages, ...back.stages] }, r, g, b)
        ;[r, g, b].forEach((v, i) => expect(Math.abs(again[i]! - v)).toBeLessThan(1 / 8192))
      }),
    )
  })
  it('of a colour decision list are slope, offset, power, then saturation, held between 0 and 1', () => {
    const grade = '<SOPNode><Slope>2 1 1</Slope><Offset>0 -0.5 0.25</Offset><Power>1 1 2</Power></SOPNode>'
    expect(through(functionOf('ASC_CDL', 'Fwd', grade), 0.75, 0.25, 0.25)).toEqual([1, 0, 0.25])
    expect(through(functionOf('ASC_CDL', 'FwdNoClamp', grade), 0.75, 0.25, 0.25)).toEqual([1.5, -0.25, 0.25])
    const grey = '<SatNode><Saturation>0</Saturation></SatNode>'
    expect(through(functionOf('ASC_CDL', 'Fwd', grey), 1, 0, 0)).toEqual([0.2126, 0.2126, 0.2126])
  })
  it('of curves over half floats have a point for each, as numbers or as bits', () => {
    const points = Array.from({ length: 65_536 }, (_, i) => (i === 0x3800 ? 0.75 : 0))
    const attributes = 'halfDomain="true"'
    const read = (text: string, more = '', depths = ['16f', '32f']) =>
      readTable(list(node('LUT1D', array('65536 1', text), depths, `${attributes} ${more}`)), 'x')
    const t = read(points.join(' '))
    // 0x3800 is a half, and the next half is 2⁻¹¹ on
    expect([t.shape, ...through(t, 0.5, -0.5, 0.5 + 2 ** -12)]).toEqual(['curve', 0.75, 0, 0.375])
    const raw = read(points.map((v) => (v ? 0x3c00 : 0)).join(' '), 'rawHalfs="true"', ['16f', '16f'])
    expect(through(raw, 0.5, 0, 0)).toEqual([1, 0, 0])
    // as writers have it: infinities, and no numbers, become themselves
    const names = Array.from(halves, (v) => (Number.isNaN(v) ? 'nan' : Number.isFinite(v) ? v : v < 0 ? '-inf' : 'inf'))
    expect(through(read(names.join(' ')), 0.25, -3, 70_000)).toEqual([0.25, -3, 65_504])
    const bits = Array.from(halves, (_, i) => i).join(' ')
    expect(through(read(bits, 'rawHalfs="true"', ['16f', '16f']), 0.25, -3, 70_000)).toEqual([0.25, -3, 65_504])
    names[0x3800] = 'nan'
    expect(() => read(names.join(' '))).toThrow('Its number 14337 is infinite or none.')
    expect(problem(list(node('LUT1D', array('2 1', '0 1'), ['16f', '16f'], attributes)))).toEqual([
      ...['table.damaged', 'A curve over half floats has 65 536 points.', 'x, LUT1D 1'],
    ])
    expect(problem(list(node('LUT1D', array('2 1', '0 31744'), ['16f', '16f'], 'rawHalfs="true"')))?.[0]).toBe(
      'table.damaged',
    )
  })
  it.each([
    ['Log', 'log3', '', /Its style is “log3”, where there are log10, antiLog10/],
    ['Log', 'cameraLinToLog', params('Log', { base: 2 }), /says no linSideBreak/],
    ['Log', 'cameraLinToLog', params('Log', { linSideBreak: 0 }), /there is no logarithm/],
    ['Log', 'linToLog', params('Log', { base: 1 }), /base above 0 that is not 1/],
    ['Log', 'linToLog', params('Log', { logSideSlope: 0 }), /logSideSlope is 0/],
    ['Log', 'linToLog', '', /says no LogParams/],
    ['Exponent', 'basicFwd', params('Exponent', { exponent: 'x' }), /number 1 is “x”/],
    ['Exponent', 'basicFwd', params('Exponent', {}), /from 0.01 to 100/],
    ['Exponent', 'basicFwd', params('Exponent', { exponent: 2, channel: 'A' }), /no channel “A”/],
    ['Exponent', 'monCurveFwd', params('Exponent', { exponent: 2.4, offset: 1 }), /offset is from 0 to 0.9/],
    ['Exponent', 'basicFwd', '<Array/>', /“Array” has no place/],
    ['ASC_CDL', 'Rev', '<SOPNode><Slope>1 0 1</Slope></SOPNode>', /slope is above 0/],
    ['ASC_CDL', 'Fwd', '<SOPNode><Power>1 1</Power></SOPNode>', /Power has 3 numbers/],
    ['ASC_CDL', '', '', /Its style is “”/],
  ])('%s, %s, %s is refused', (kind, style, inner, said) =>
    expect(problem(list(node(kind, inner, undefined, style && `style="${style}"`)))?.[1]).toMatch(said),
  )
})

it('damaged ten thousand times each, they are read or refused by a problem', () => {
  const good = [
    `TITLE "a"\nDOMAIN_MIN 0 0 0\nLUT_3D_SIZE 2\n${corners}\n`,
    list(
      node('LUT1D', array('2 3', '0 0 0 1 1 1')),
      node('Range', '<minInValue>0</minInValue><minOutValue>0</minOutValue>'),
      node('ASC_CDL', '<SOPNode><Slope>1 1 1</Slope></SOPNode>', undefined, 'style="Fwd"'),
      node('Log', params('Log', { base: 2 }), undefined, 'style="linToLog"'),
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
