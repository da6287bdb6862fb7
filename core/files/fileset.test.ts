import { describe, expect, it } from 'vitest'
import { makeRate, rates } from '../time/rate'
import { endsOf, entryOf, filesOf, groupFiles, isRun, rateOfRun, runAtRate, runNamed } from './fileset'

describe('names of several files that are one', () => {
  it('groups runs without gaps and sets of channels', () => {
    expect(
      groupFiles([
        'a_0001.png',
        'a_0002.png',
        'a_0004.png',
        'a_0005.png',
        'b.png',
        'c_0001.png',
        'mix.L.wav',
        'mix.R.wav',
        'mix.LFE.wav',
        'mix.C.wav',
        'x_1.wav',
        'x_2.wav',
        'y_L.wav',
      ]),
    ).toEqual(['a_[0001-0002].png', 'a_[0004-0005].png', 'mix.{L,R,C,LFE}.wav', 'x_{1,2}.wav'])
    expect(filesOf('s/a_[0099-0101].dpx')).toEqual(['s/a_0099.dpx', 's/a_0100.dpx', 's/a_0101.dpx'])
    expect(filesOf('mix.{L,R}.wav')).toEqual(['mix.L.wav', 'mix.R.wav'])
    expect(filesOf('plain_0001.png')).toBeNull()
  })
  it('carry the rate a person gave them', () => {
    expect(runAtRate('s/a_[0099-0100].dpx', makeRate(30000, 1001))).toBe('s/a_[0099-0100@29.97].dpx')
    expect(runAtRate('s/a_[0099-0100@29.97].dpx', makeRate(24))).toBe('s/a_[0099-0100@24].dpx')
    expect([rateOfRun('s/a_[0099-0100@23.976].dpx'), rateOfRun('s/a_[0099-0100].dpx'), rateOfRun('a@24.mov')]).toEqual([
      makeRate(24000, 1001),
      null,
      null,
    ])
    for (const r of rates) expect(rateOfRun(runAtRate('a_[01-02].png', r))).toEqual(r)
    expect(filesOf('s/a_[0099-0100@23.976].dpx')).toEqual(['s/a_0099.dpx', 's/a_0100.dpx'])
  })
})

describe('runs that are delivered', () => {
  it('are numbered in as many digits as asked, and are the same again as they are found', () => {
    const run = runNamed('Fog/Fog.', 998, 4, 5, '.dpx')
    expect(run).toBe('Fog/Fog.[00998-01001].dpx')
    expect(isRun(run)).toBe(true)
    expect(endsOf(run)).toEqual(['Fog/Fog.00998.dpx', 'Fog/Fog.01001.dpx'])
    expect(endsOf('Fog/Fog.mov')).toEqual([])
    expect(filesOf(run)).toEqual(['Fog/Fog.00998.dpx', 'Fog/Fog.00999.dpx', 'Fog/Fog.01000.dpx', 'Fog/Fog.01001.dpx'])
    expect(groupFiles(filesOf(run)!.map((f) => f.slice(4)))).toEqual(['Fog.[00998-01001].dpx'])
  })
  it('take the name of their folder on a disk; a file takes its own', () => {
    expect(entryOf('a/Fog/Fog.[1-2].dpx')).toBe('a/Fog')
    expect(entryOf('a/Fog.mov')).toBe('a/Fog.mov')
    expect(isRun('a/Fog.[1-2].mov')).toBe(false)
  })
})
