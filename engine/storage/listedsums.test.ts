import { mkdirSync, rmSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { beforeEach, afterAll, describe, expect, it } from 'vitest'
import { scratchFolder } from '../../tests/fixtures'
import { sumsOfFile } from './hashing'
import { differing, SumLists } from './listedsums'

const { folder, remove } = scratchFolder()
const put = (name: string, text: string) => {
  const file = path.join(folder, name)
  mkdirSync(path.dirname(file), { recursive: true })
  writeFileSync(file, text)
  return file
}
/** Of `abc`: RFC 1321 (A.5), FIPS 180-4 (examples). */
const md5 = '900150983cd24fb0d6963f7d28e17f72'
const sha256 = 'ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad'
const said = async (file: string) =>
  (await new SumLists(folder).of(file)).map((e) => [e.kind, e.sum.slice(0, 4), e.file, e.list])

beforeEach(() => {
  rmSync(folder, { recursive: true })
  mkdirSync(folder)
})
afterAll(remove)

describe('sums', () => {
  it('are those of the standards, of every kind', async () => {
    const file = put('abc', 'abc')
    expect(await sumsOfFile(file, ['md5', 'sha1', 'sha256', 'xxh64'])).toEqual({
      ...{ md5, sha256, sha1: 'a9993e364706816aba3e25717850c26c9cd0d89d', xxh64: '44bc2cf5ad770999' },
    })
  })
})

describe('lists of checksums', () => {
  it('are looked for beside a file and in the folders that it lies in', async () => {
    const film = put('from/reels/one.mov', 'abc')
    put('from/all.md5', `${md5}  reels/one.mov\n`)
    put('from/reels/SHA256SUMS', `${sha256} *one.mov\n`)
    put('from/reels/.hidden.md5', `${md5}  one.mov\n`)
    put('from/other/one.md5', `${md5}  one.mov\n`)
    expect(await said(film)).toEqual([
      ['sha256', 'ba78', 'one.mov', 'SHA256SUMS'],
      ['md5', '9001', 'one.mov', 'all.md5'],
    ])
  })

  it.each([
    ['of the machine it was made on', `/Volumes/Tape 4/out/one.mov`],
    ['of a drive', String.raw`D:\out\one.mov`],
    ['out of its folder', '../out/one.mov'],
    ['from the folder it lies in', 'reels/one.mov'],
  ])('find a file by its name where the path is that %s', async (_, where) => {
    const film = put('reels/one.mov', 'abc')
    put('reels/a.md5', `${md5}  ${where}\n`)
    expect(await said(film)).toEqual([['md5', '9001', 'one.mov', 'a.md5']])
    expect(await new SumLists(folder).absent(folder)).toEqual([])
  })

  it('know a name that another system writes in parts', async () => {
    const film = put('ö.mov'.normalize('NFC'), 'abc')
    put('a.md5', `${md5}  ${'ö.mov'.normalize('NFD')}\n`)
    expect(await said(film)).toHaveLength(1)
    expect(await differing(film, await new SumLists(folder).of(film))).toEqual([])
  })

  it('name what is not there, and say what is not understood', async () => {
    put('in/a.md5', `${md5}  two.mov\nnonsense\n${md5}  sub/three.xml\n\n???\n`)
    const lists = new SumLists(folder)
    expect(await lists.absent(path.join(folder, 'in'))).toEqual([
      { path: 'in/two.mov', list: 'a.md5' },
      { path: 'in/sub/three.xml', list: 'a.md5' },
    ])
    expect(lists.strange).toEqual([
      { path: 'in/a.md5', problem: expect.objectContaining({ where: 'in/a.md5, line 2' }) as unknown },
    ])
    expect(lists.strange[0]!.problem.message).toMatch(/^2 lines of this list/)
  })

  it('of a run of stills hold each of them', async () => {
    for (const n of [1, 2, 3]) put(`fog_000${n}.dpx`, 'abc')
    put('fog.md5', [1, 2, 3].map((n) => `${md5}  fog_000${n}.dpx\n`).join(''))
    const run = path.join(folder, 'fog_[0001-0003].dpx')
    const listed = await new SumLists(folder).of(run)
    expect(listed.map((e) => e.file)).toEqual(['fog_0001.dpx', 'fog_0002.dpx', 'fog_0003.dpx'])
    expect(await differing(run, listed)).toEqual([])
    put('fog_0002.dpx', 'abd')
    expect((await differing(run, listed)).map((e) => e.file)).toEqual(['fog_0002.dpx'])
  })
})
