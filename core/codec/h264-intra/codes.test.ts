import { describe, expect, it } from 'vitest'
import { patterns, runs, tokens, tokensDc420, tokensDc422, zeros4x4, zerosDc420, zerosDc422, type Codes } from './codes'

const text = ({ length, bits }: Codes[number]) => bits.toString(2).padStart(length, '0')
const used = (codes: Codes) => codes.filter((c) => c.length > 0)

describe('the code tables', () => {
  const all: [string, Codes][] = [
    ...tokens.map((t, i): [string, Codes] => [`coeff_token ${i}`, t]),
    ['coeff_token of chroma DC 4:2:0', tokensDc420],
    ['coeff_token of chroma DC 4:2:2', tokensDc422],
    ...[zeros4x4, zerosDc420, zerosDc422, runs].flatMap((list, k) =>
      list.map((t, i): [string, Codes] => [`list ${k}, ${i + 1}`, t]),
    ),
  ]
  it.each(all)('%s: none begins as another one is', (_, codes) => {
    const texts = used(codes).map(text)
    for (const a of texts) expect(texts.filter((b) => b.startsWith(a))).toEqual([a])
  })
  it('leave no more unused than the standard does', () => {
    const share = (codes: Codes) => used(codes).reduce((n, c) => n + 2 ** -c.length, 0)
    for (const codes of [...zeros4x4.slice(1), ...zerosDc420, ...zerosDc422, ...runs.slice(0, 6)])
      expect(share(codes)).toBe(1)
    // all zeros are kept free, lest a start code be met
    for (const codes of [...tokens.slice(0, 3), tokensDc422]) expect(share(codes)).toBeLessThan(1)
    for (const codes of [...tokens.slice(0, 3), tokensDc422]) expect(share(codes)).toBeGreaterThan(0.96)
  })
  it('have a code for each that can be', () => {
    const possible = (most: number) =>
      Array.from({ length: most + 1 }, (_, total) => Math.min(3, total) + 1).reduce((a, b) => a + b)
    for (const t of tokens) expect(used(t)).toHaveLength(possible(16))
    expect(used(tokensDc420)).toHaveLength(possible(4))
    expect(used(tokensDc422)).toHaveLength(possible(8))
    zeros4x4.forEach((t, i) => expect(used(t)).toHaveLength(16 - i))
    zerosDc422.forEach((t, i) => expect(used(t)).toHaveLength(8 - i))
    expect([...patterns].sort((a, b) => a - b)).toEqual(Array.from({ length: 48 }, (_, i) => i))
  })
})
