import { existsSync, mkdirSync, rmSync, symlinkSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import fc from 'fast-check'
import { afterAll, describe, expect, it } from 'vitest'
import { ProblemError } from '../../core/problem'
import { scratchFolder } from '../../tests/fixtures'
import { Roots } from './roots'

const { folder, remove } = scratchFolder()
afterAll(remove)
const root = path.join(folder, 'storage')
mkdirSync(path.join(root, 'inside'), { recursive: true })
writeFileSync(path.join(root, 'inside', 'a.mov'), 'x')
writeFileSync(path.join(root, '.hidden'), 'x')
symlinkSync('/etc', path.join(root, 'link'))
const roots = new Roots([root, root])

const codeOf = (action: () => unknown) => {
  try {
    action()
    return 'none'
  } catch (e) {
    return (e as ProblemError).problem.code
  }
}

describe('storage roots', () => {
  it('get names of their own', () => expect(roots.list.map((r) => r.name)).toEqual(['storage', 'storage 2']))
  it.each(['../x', 'inside/../../x', '/etc/passwd', 'link/passwd', 'a\0b'])('refuse %j', (p) =>
    expect(codeOf(() => roots.resolve('storage', p))).toBe('root.outside'),
  )
  it('refuse unknown roots, and roots that are gone', () => {
    expect(codeOf(() => roots.resolve('elsewhere', 'a'))).toBe('root.unknown')
    expect(codeOf(() => new Roots([path.join(folder, 'gone')]).resolve('gone', 'a'))).toBe('root.away')
  })
  it('never lead out, whatever the path', () => {
    fc.assert(
      fc.property(fc.array(fc.constantFrom('..', '.', 'inside', 'a', '/', '\\', 'link', '~')), (parts) => {
        try {
          expect(roots.resolve('storage', parts.join('/'))).toMatch(new RegExp(`^${root}(/|$)`))
        } catch (e) {
          expect(e).toBeInstanceOf(ProblemError)
        }
      }),
    )
  })
  it('list what is there, without hidden files and links', async () => {
    expect((await roots.entries('storage', '')).map((e) => e.name)).toEqual(['inside'])
    expect((await roots.entries('storage', 'inside')).map((e) => [e.path, e.size])).toEqual([['inside/a.mov', 1]])
  })
  it('list a run of stills as one, a set of sound files beside them', async () => {
    mkdirSync(path.join(root, 'scans'))
    for (const name of ['fog_001.png', 'fog_002.png', 'fog_004.png', 'mix.L.wav', 'mix.R.wav'])
      writeFileSync(path.join(root, 'scans', name), 'xy')
    expect((await roots.entries('storage', 'scans')).map((e) => [e.name, e.size])).toEqual([
      ['fog_[001-002].png', 4],
      ['fog_004.png', 2],
      ['mix.{L,R}.wav', 4],
      ['mix.L.wav', 2],
      ['mix.R.wav', 2],
    ])
  })
  it('glance at many names: none outside, none of a folder or root that is not there', () => {
    const isThere = roots.glance()
    const there = [
      'inside/a.mov',
      'inside',
      '../storage/inside/a.mov',
      'link/passwd',
      'gone/a.mov',
      'a\0b',
      '/etc/passwd',
    ]
    expect(there.map((p) => isThere('storage', p))).toEqual([true, true, true, false, false, false, false])
    expect(isThere('elsewhere', 'a')).toBe(false)
    // another case is another file, unless the disk says otherwise
    expect(isThere('storage', 'inside/A.MOV')).toBe(existsSync(path.join(root, 'inside', 'A.MOV')))
    writeFileSync(path.join(root, 'inside', 'b.mov'), 'x')
    expect(roots.glance()('storage', 'inside/b.mov')).toBe(true)
    rmSync(path.join(root, 'inside', 'b.mov'))
    expect(roots.glance()('storage', 'inside/b.mov')).toBe(false)
  })
  it('find the root of a path', () => {
    expect(roots.locate(path.join(root, 'inside/a.mov'))).toEqual({ root: 'storage', path: 'inside/a.mov' })
    expect(codeOf(() => roots.locate('/etc/passwd'))).toBe('root.outside')
  })
})
