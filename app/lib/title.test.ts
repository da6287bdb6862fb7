import { describe, expect, it } from 'vitest'
import { pageTitle } from './title'

describe('the title of the page', () => {
  it('names the station, on the desk the timeline in hand', () => {
    expect(pageTitle('/checks', 'Almanac Reel 1')).toBe('Checks · Velvet Crane')
    expect(pageTitle('/desk', 'Almanac Reel 1')).toBe('Almanac Reel 1 · Velvet Crane')
    expect(pageTitle('/desk', undefined)).toBe('Desk · Velvet Crane')
    expect(pageTitle('/', undefined)).toBe('Velvet Crane')
  })

  it('counts what a night has finished, well or not, as long as it runs', () => {
    const items = ['done', 'failed', 'skipped', 'running', 'waiting'].map((state) => ({ state }))
    expect(pageTitle('/run', undefined, { state: 'running', items })).toBe('3/5 · Night run · Velvet Crane')
    expect(pageTitle('/run', undefined, { state: 'done', items })).toBe('Night run · Velvet Crane')
  })
})
