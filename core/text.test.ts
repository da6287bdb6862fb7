import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { bytesText, decodeText, listed, plural, spanText, templatePieces } from './text'

describe('text of a file that does not say its encoding', () => {
  const bytes = (...list: number[]) => Uint8Array.from(list)
  it.each([
    ['UTF-8', new TextEncoder().encode('Färja · 渡船'), { text: 'Färja · 渡船', legacy: false }],
    ['Windows-1252', bytes(0x46, 0xe4, 0x72, 0x6a, 0x61, 0x20, 0x80), { text: 'Färja €', legacy: true }],
    ['UTF-16, little end first', bytes(0xff, 0xfe, 0x46, 0, 0xe4, 0), { text: 'Fä', legacy: false }],
    ['UTF-16, big end first', bytes(0xfe, 0xff, 0, 0x46, 0, 0xe4), { text: 'Fä', legacy: false }],
    ['nothing', bytes(), { text: '', legacy: false }],
  ])('%s', (_, given, expected) => expect(decodeText(given)).toEqual(expected))
  it('is never lost: what was written as UTF-8 comes back, whatever it is (property)', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme' }), (text) => {
        const read = decodeText(new TextEncoder().encode(text))
        // a mark at the beginning is not text
        expect(read).toEqual({ text: text.replace(/^\uFEFF/, ''), legacy: false })
      }),
    )
  })
})

describe('words', () => {
  it('for sizes', () => {
    expect([0, 999, 1000, 9949, 705_000_000, 4.2e12].map(bytesText)).toEqual([
      '0 bytes',
      '999 bytes',
      '1.0 kB',
      '9.9 kB',
      '705 MB',
      '4.2 TB',
    ])
  })
  it.each([
    [0, '0 s'],
    [0.3, 'under 1 s'],
    [59.6, '1 min'],
    [200, '3 min 20 s'],
    [20_400, '5 h 40 min'],
  ])('for %d seconds: %s', (s, text) => expect(spanText(s)).toBe(text))
  it('for counts and lists', () => {
    expect([plural(1, 'frame'), plural(0, 'frame'), plural(2, 'stretch', 'stretches')]).toEqual([
      '1 frame',
      '0 frames',
      '2 stretches',
    ])
    expect([listed([]), listed(['a']), listed(['a', 'b', 'c'], 'or')]).toEqual(['', 'a', 'a, b or c'])
  })
})

it('parts templates into text and fields; braces that match nothing stay text', () =>
  expect(templatePieces('a{region:2}{b} {3} }{')).toEqual([
    { text: 'a' },
    { field: 'region', prefix: 2 },
    { field: 'b', prefix: null },
    { text: ' {3} }{' },
  ]))
