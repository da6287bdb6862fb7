import { execFileSync, spawnSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import path from 'node:path'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { ProblemError } from '../problem'
import { readPapers } from './papersxml'

const example = /```xml\n([^]*?)```/.exec(readFileSync('docs/papers.md', 'utf8'))![1]!
const problem = (text: string) => {
  try {
    readPapers(text, 'p.xml')
  } catch (e) {
    if (e instanceof ProblemError) return e.problem
    throw e
  }
  return null
}

describe('papers as XML', () => {
  it('are read as the docs show them', () => {
    expect(readPapers(example, 'p.xml')).toEqual({
      all: { 'series title': 'The Ferry Almanac', language: 'eng' },
      regions: [
        { name: 'Fog Bell', fields: { 'production number': 'FA-103' } },
        { name: 'Low Water', fields: { 'production number': 'FA-105' } },
      ],
    })
  })

  it.skipIf(spawnSync('xmllint', ['--version']).error)(
    'are valid by the schema in the docs, as xmllint sees it',
    () => {
      const folder = mkdtempSync(path.join(tmpdir(), 'papers-'))
      const valid = (text: string) => {
        writeFileSync(path.join(folder, 'p.xml'), text)
        const run = () =>
          execFileSync('xmllint', ['--noout', '--schema', 'docs/papers.xsd', path.join(folder, 'p.xml')], {
            stdio: 'pipe',
          })
        try {
          run()
          return true
        } catch {
          return false
        }
      }
      expect(valid(example)).toBe(true)
      // the schema refuses what the reader refuses
      for (const text of [
        example.replace('Low Water', 'Fog Bell'),
        example.replace(/<value>eng<\/value>/, ''),
        example.replaceAll('region>', 'film>'),
      ]) {
        expect(valid(text)).toBe(false)
        expect(problem(text)).not.toBeNull()
      }
      rmSync(folder, { recursive: true })
    },
  )

  it('resolve what XML needs to escape, and leave other entities', () => {
    const text = '<papers><field><name>a</name><value>Fish &amp; &#233; &lt;b&gt; &nbsp;</value></field></papers>'
    expect(readPapers(text, 'p.xml').all).toEqual({ a: 'Fish & é <b> &nbsp;' })
  })

  it.each([
    ['<x/>', 'papers.other'],
    ['<papers><film/></papers>', 'papers.element'],
    ['<papers><region><title>x</title></region></papers>', 'papers.region'],
    ['<papers><region><name>x</name><note/></region></papers>', 'papers.element'],
    ['<papers><field><name>a</name></field></papers>', 'papers.field'],
    ['<papers><field><value>a</value></field></papers>', 'papers.field'],
    [
      '<papers><field><name>a</name><value>1</value></field><field><name>a</name><value/></field></papers>',
      'papers.twice',
    ],
    ['<papers><field>', 'xml.malformed'],
    ['<!DOCTYPE papers [<!ENTITY a "b">]><papers/>', 'xml.doctype'],
    ['', 'xml.malformed'],
  ])('say what is wrong: %s', (text, code) => {
    expect(problem(text)).toMatchObject({ code, where: expect.stringContaining('p.xml') })
  })

  it('are papers or a problem, ten thousand times damaged', () => {
    const damaged = fc
      .array(fc.tuple(fc.nat(example.length), fc.nat(12), fc.string({ maxLength: 6 })), { minLength: 1, maxLength: 5 })
      .map((list) => list.reduce((t, [at, cut, put]) => t.slice(0, at) + put + t.slice(at + cut), example))
    fc.assert(
      fc.property(damaged, (text) => {
        const found = problem(text)
        if (found) expect(found.message.length).toBeGreaterThan(10)
      }),
      { numRuns: 10_000, seed: 11 },
    )
  })
})
