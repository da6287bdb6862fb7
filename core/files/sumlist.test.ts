import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { checksumKinds } from './checksums'
import { isSumList, readSumList, sumListText } from './sumlist'

/** Of nothing at all: RFC 1321 (A.5), FIPS 180-4, and the xxHash specification. */
const md5 = 'd41d8cd98f00b204e9800998ecf8427e'
const sha1 = 'da39a3ee5e6b4b0d3255bfef95601890afd80709'
const sha256 = 'e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855'
const xxh64 = 'ef46db3751d8e999'

describe('lists of checksums', () => {
  it.each([
    ['the two blanks of a sum tool', `${md5}  a film.mov`, 'a film.mov'],
    ['its mark for binary', `${md5} *a film.mov`, 'a film.mov'],
    ['a tabulator', `${md5}\ta film.mov`, 'a film.mov'],
    ['more blanks than two', `${md5}   film.mov`, 'film.mov'],
    ['capital digits', `${md5.toUpperCase()}  a.mov`, 'a.mov'],
    ['folders', `${md5}  ./reels/one/a.mov`, 'reels/one/a.mov'],
    ['folders of another system', `${md5} *reels\\one\\a.mov`, 'reels/one/a.mov'],
    ['a name with a reverse stroke in it', `\\${md5}  a\\\\b\\nc.mov`, 'a\\b\nc.mov'],
    ['the tagged form', `MD5 (a (old) film.mov) = ${md5}`, 'a (old) film.mov'],
  ])('are read with %s', (_, line, path) => {
    expect(readSumList(line, 'night.md5')).toEqual({ sums: [{ kind: 'md5', sum: md5, path }], strange: [] })
  })

  it('tell kinds by their digits, unless their name says which is meant', () => {
    const text = `\uFEFF# sent on Monday\r\n\r\n${md5}  a\r\n${sha1}  a\r\n${sha256}  a\r\n${xxh64}  a\r\n`
    const kinds = (name: string) => readSumList(text, name).sums.map((s) => s.kind)
    expect(kinds('checksums.txt')).toEqual(['md5', 'sha1', 'sha256', 'xxh64'])
    expect(kinds('manifest-sha256.txt')).toEqual(['sha256'])
    expect(readSumList(text, 'SHA1SUMS')).toMatchObject({ sums: [{ kind: 'sha1' }], strange: [3, 5, 6] })
  })

  it('take a sum alone for that of the file they are called after', () => {
    expect(readSumList(`${xxh64}\n`, 'a film.mov.xxh64').sums).toEqual([
      { kind: 'xxh64', sum: xxh64, path: 'a film.mov' },
    ])
    expect(readSumList(`${xxh64}\n`, 'checksums.txt')).toEqual({ sums: [], strange: [1] })
  })

  it('say which lines are not understood', () => {
    const lines = [
      'not a sum',
      `${md5}`,
      `${md5.slice(2)}  short.mov`,
      `SHA256 (a) = ${md5}`,
      `CRC32 (a) = 0123456789abcdef`,
    ]
    expect(readSumList(lines.join('\n'), 'SHA256SUMS.txt').strange).toEqual([1, 2, 3, 4, 5])
    expect(readSumList(lines.join('\n'), 'checksum.txt').strange).toEqual([1, 2, 3, 4, 5])
  })

  it('are known by their names', () => {
    const yes = ['a.md5', 'A.MOV.SHA256', 'md5sum.txt', 'SHA256SUMS', 'checksums.txt', 'manifest-sha1.txt']
    expect(yes.filter((n) => !isSumList(n))).toEqual([])
    expect(['a.mov', 'notes.txt', 'manifest.txt', 'md5', 'sums.md5.mov'].filter(isSumList)).toEqual([])
  })

  it('read what is written', () => {
    const name = fc.stringMatching(/^[A-Za-z0-9_äß-][A-Za-z0-9 ._äß()=*-]{0,30}$/)
    const entry = fc.record({ path: name, of: fc.constantFrom(...checksumKinds), seed: fc.nat(15) })
    fc.assert(
      fc.property(fc.array(entry, { maxLength: 9 }), (entries) => {
        const sums = entries.map((e) => ({
          path: e.path,
          sum: e.seed.toString(16).repeat(e.of.digits),
          kind: e.of.name,
        }))
        expect(readSumList(sumListText(sums), 'checksums.txt')).toEqual({ sums, strange: [] })
      }),
    )
  })

  it('never fail, whatever they hold', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), fc.constantFrom('a.md5', 'checksums.txt'), (text, list) => {
        const { sums, strange } = readSumList(text, list)
        expect(sums.length + strange.length).toBeLessThanOrEqual(text.split(/\r\n|\n|\r/).length)
      }),
    )
  })
})
