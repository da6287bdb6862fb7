import { expect, it } from 'vitest'
import { canDownmix, downmixed, type DownmixTo } from './downmix'

/** Each channel alone at full scale, and what it gives to each channel of the downmix. */
function sharesOf(from: string, to: DownmixTo): Record<string, number[]> {
  const names = from.split(' ')
  const of = (name: string) => names.map((n) => Float32Array.of(n === name ? 1 : 0))
  return Object.fromEntries(names.map((n) => [n, downmixed(of(n), { to, from }).map((c) => Number(c[0]!.toFixed(4)))]))
}

it('gives each channel its share (ITU-R BS.775-4, table 2)', () => {
  expect(sharesOf('L R C LFE Ls Rs', 'stereo')).toEqual({
    ...{ L: [1, 0], R: [0, 1], C: [0.7071, 0.7071] },
    ...{ LFE: [0, 0], Ls: [0.7071, 0], Rs: [0, 0.7071] },
  })
  expect(sharesOf('L R C LFE Ls Rs', 'mono')).toEqual({
    ...{ L: [0.7071], R: [0.7071], C: [1], LFE: [0], Ls: [0.5], Rs: [0.5] },
  })
})

it('follows channels wherever they stand', () => {
  expect(sharesOf('L C R Ls Rs LFE', 'stereo')).toEqual(sharesOf('L R C LFE Ls Rs', 'stereo'))
  expect(sharesOf('L R', 'mono')).toEqual({ L: [0.7071], R: [0.7071] })
  expect(sharesOf('C', 'stereo')).toEqual({ C: [0.7071, 0.7071] })
})

it('cuts nothing off, and adds sample by sample', () => {
  const from = 'L R C'
  const [l, r] = downmixed([Float32Array.of(0.9, 0), Float32Array.of(0, -0.5), Float32Array.of(0.9, 0.2)], {
    ...{ to: 'stereo', from },
  })
  expect(Array.from(l!, (v) => v.toFixed(4))).toEqual(['1.5364', '0.1414'])
  expect(Array.from(r!, (v) => v.toFixed(4))).toEqual(['0.6364', '-0.3586'])
})

it.each([
  ['L R C LFE Ls Rs', true],
  ['C', true],
  ['L R L R', false],
  ['L R ? ?', false],
  ['L R C LFE Ls Rs Rls Rrs', false],
])('%s is one mix that has shares: %s', (layout, can) => expect(canDownmix(layout)).toBe(can))
