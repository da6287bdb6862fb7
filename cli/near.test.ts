import { describe, expect, it } from 'vitest'
import { nearest } from './near'

describe('the word that was probably meant', () => {
  const options = ['--json', '--dry-run', '--regions', '--recipe', '--workers', '--to']
  it.each([
    ['--jsno', '--json'],
    ['--dryrun', '--dry-run'],
    ['-dry-run', '--dry-run'],
    ['--region', '--regions'],
    ['--recpie', '--recipe'],
    ['--worker', '--workers'],
    ['--too', '--to'],
    ['--verbose', null],
    ['--x', null],
    ['', null],
  ])('%s: %s', (word, meant) => expect(nearest(word, options)).toBe(meant))
  it('is the nearest of several', () => expect(nearest('chek', ['probe', 'check', 'checks'])).toBe('check'))
  it('is none where there are none', () => expect(nearest('check', [])).toBeNull())
})
