import fc from 'fast-check'
import { expect, it } from 'vitest'
import { makeRate } from '../../time/rate'
import type { Timeline } from '../../timeline/model'
import type { Region } from '../region'
import { changeNamed, regionChanges } from './registry'

const timeline: Timeline = {
  ...{ name: 'Reel', rate: makeRate(25), dropFrame: false, start: 0, length: 1000 },
  ...{ tracks: [], events: [], markers: [] },
}
const region = (id: string, from: number, to: number, name: string): Region => ({
  ...{ id, name, in: from, out: to },
  metadata: { language: 'en' },
})
const all = [
  region('a', 0, 100, 'fog bell'),
  region('b', 102, 200, 'The Gannet Run'),
  region('c', 600, 1000, 'LOW WATER'),
]
const after = (name: string, values = {}, regions = all) =>
  changeNamed(name).apply(regions, values, { timeline, shots: [], markers: [], all })
const names = (name: string, values = {}) => after(name, values).map((r) => r.name)
const times = (name: string, values = {}, regions = all) => after(name, values, regions).map((r) => [r.in, r.out])

it('names in series', () => {
  expect(names('series')).toEqual(['01 fog bell', '02 The Gannet Run', '03 LOW WATER'])
  expect(names('series', { pattern: 'E{number}', first: 9 })).toEqual(['E09', 'E10', 'E11'])
})
it('finds and replaces, as it is typed', () => {
  expect(names('replace', { find: 'e', by: '$&' })).toEqual(['fog b$&ll', 'Th$& Gann$&t Run', 'LOW WATER'])
  expect(names('replace')).toEqual(all.map((r) => r.name))
})
it('writes capitals and small letters', () => {
  expect(names('letters', { as: 'upper' })[0]).toBe('FOG BELL')
  expect(names('letters', { as: 'lower' })[2]).toBe('low water')
  expect(names('letters', { as: 'title' })).toEqual(['Fog Bell', 'The Gannet Run', 'Low Water'])
})
it('takes papers from XML: of all, of those it names, and empty values away', () => {
  const field = (name: string, value: string) => `<field><name>${name}</name><value>${value}</value></field>`
  const xml =
    `<papers>${field('series title', 'Almanac')}` +
    `<region><name>FOG BELL</name>${field('production number', 'FA-1')}${field('language', '')}</region></papers>`
  expect(after('papers', { xml }).map((r) => r.metadata)).toEqual([
    { 'series title': 'Almanac', 'production number': 'FA-1' },
    { 'series title': 'Almanac', language: 'en' },
    { 'series title': 'Almanac', language: 'en' },
  ])
  // a region that is there, though it is not meant, is no mistake; one that is not, is
  expect(after('papers', { xml }, all.slice(1)).map((r) => r.metadata['production number'])).toEqual([
    undefined,
    undefined,
  ])
  expect(() => after('papers', { xml: xml.replace('FOG', 'DOG') })).toThrow('No region is called “DOG BELL”')
  expect(after('papers')).toEqual(all)
})
it('fills papers in, and takes them away', () => {
  expect(after('paper', { value: ' FA-1 ' })[0]!.metadata).toEqual({ language: 'en', 'production number': 'FA-1' })
  expect(after('paper', { field: 'language' })[0]!.metadata).toEqual({})
})
it('says what regions are, and that they are nothing', () => {
  expect(after('kind', { as: 'promo' }).map((r) => r.kind)).toEqual(['promo', 'promo', 'promo'])
  expect(after('kind', { as: 'none' }, [{ ...all[0]!, kind: 'break' }])[0]).toEqual(all[0])
})
it('moves whole regions, none out of the timeline', () => {
  expect(times('move', { by: 5 })).toEqual([
    [5, 105],
    [107, 205],
    [600, 1000],
  ])
  expect(times('move', { by: 5, way: 'earlier' })[0]).toEqual([0, 100])
})
it('trims an end; a region keeps a frame', () => {
  expect(times('trim', { by: 98 })).toEqual([
    [98, 100],
    [199, 200],
    [698, 1000],
  ])
  expect(times('trim', { end: 'out', way: 'earlier', by: 150 })[0]).toEqual([0, 1])
})
it('closes gaps and opens them, but leaves wide ones', () => {
  expect(times('gaps')).toEqual([
    [0, 102],
    [102, 200],
    [600, 1000],
  ])
  expect(times('gaps', { frames: 10 })[0]).toEqual([0, 92])
  expect(times('gaps', { frames: 0, reach: 500 })[1]).toEqual([102, 600])
  const nested = [region('s', 0, 500, 'season'), region('e', 10, 50, 'episode')]
  expect(changeNamed('gaps').apply(nested, {}, { timeline, shots: [], markers: [], all: nested })[0]!.out).toBe(500)
})
it('every change gives back as many regions, each within the timeline and of a frame or more', () =>
  fc.assert(
    fc.property(
      fc.constantFrom(...regionChanges.map((c) => c.name)),
      fc.record({
        by: fc.nat(2000),
        frames: fc.nat(2000),
        way: fc.constantFrom('later', 'earlier'),
        end: fc.constantFrom('in', 'out'),
      }),
      (name, values) => {
        const made = after(name, name === 'replace' ? {} : values)
        expect(made.map((r) => r.id)).toEqual(['a', 'b', 'c'])
        for (const r of made) expect(0 <= r.in && r.in < r.out && r.out <= 1000).toBe(true)
      },
    ),
  ))
