import { describe, expect, it } from 'vitest'
import { changedParts, identityOf, partsOf, partText, picturesIdentityOf } from './identity'
import { plainSettings } from '../recipe/settings'
import type { FrozenDeliverable } from './sheet'

const frozen = {
  id: 'run-001',
  source: { root: 'storage', path: 'reel.mov', fingerprint: { size: 9, modified: 1, content: 'abc' } },
  region: { id: 'r', name: 'Fog Bell', in: 0, out: 50, metadata: { 'production number': 'FA-103' } },
  chapters: [],
  outlet: { id: 'o', name: 'Osprey' },
  recipe: { ...plainSettings, kind: 'sound' },
  spec: { id: 'open', rules: [{ id: 'name', expect: { matches: '.' } }] },
  output: { container: 'wav', frames: 50, bytes: 100, problems: [] },
  route: [0, 1],
  target: { root: 'storage', path: 'a.wav', version: 1 },
} as unknown as FrozenDeliverable
const same = (changes: object) => identityOf({ ...frozen, ...changes } as FrozenDeliverable) === identityOf(frozen)

describe('a deliverable is known again', () => {
  it.each([
    ['under another id and name', { id: 'run-009', target: { root: 'attic', path: 'b.wav', version: 7 } }],
    [
      'when its media was copied or moved',
      { source: { ...frozen.source, path: 'x.mov', fingerprint: { ...frozen.source.fingerprint, modified: 5 } } },
    ],
    ['when its region was made anew', { region: { ...frozen.region, id: 'other' } }],
    [
      'whatever was forecast of it',
      { output: { ...frozen.output, bytes: 7, problems: [{ code: 'x', message: 'x' }] } },
    ],
    ['whatever its recipe says of what its kind does not have', { recipe: { ...frozen.recipe, burnName: true } }],
    [
      'whatever words its recipient has',
      { spec: { id: 'open', rules: [{ id: 'name', expect: { matches: '.', says: 'x' } }] } },
    ],
    ['whatever the order of its keys', { region: Object.fromEntries(Object.entries(frozen.region).reverse()) }],
  ])('%s', (_, changes) => expect(same(changes)).toBe(true))
  it.each([
    ['an edge', { region: { ...frozen.region, out: 51 } }],
    ['its name', { region: { ...frozen.region, name: 'Fog' } }],
    ['its metadata', { region: { ...frozen.region, metadata: {} } }],
    ['its media', { source: { ...frozen.source, fingerprint: { ...frozen.source.fingerprint, content: 'abd' } } }],
    ['a setting', { recipe: { ...frozen.recipe, gain: -3 } }],
    ['a setting that every recipe was without', { recipe: { ...frozen.recipe, soundDepth: 16 } }],
    ['a rule of its recipient', { spec: { id: 'open', rules: [{ id: 'new' }] } }],
    ['its channels', { route: [1, 0] }],
    ['its outlet', { outlet: { id: 'p', name: 'Osprey' } }],
    ['a chapter', { chapters: [{ at: 3, name: 'Chain' }] }],
  ])('and is another with %s changed', (_, changes) => expect(same(changes)).toBe(false))
})

it('says nothing of settings that are what every recipe was before it had them', () => {
  expect(Object.keys(partsOf(frozen)).filter((p) => p.startsWith('setting'))).toEqual([])
})

it('is the same whatever an edition says of each of its tracks', () => {
  const audio = { codec: 'pcm', channels: 4, sampleRate: 48_000, bitDepth: 24, layout: null, tracks: 4 }
  const of = (each: object) =>
    identityOf({ ...frozen, output: { ...frozen.output, audio: { ...audio, ...each } } } as FrozenDeliverable)
  expect(of({ each: [{ codec: 'pcm', sampleRate: 48_000, bitDepth: 24 }] })).toBe(of({}))
  expect(of({ tracks: 2 })).not.toBe(of({}))
})

describe('what has changed since', () => {
  const changed = (changes: object) =>
    changedParts(partsOf(frozen), partsOf({ ...frozen, ...changes } as FrozenDeliverable)).map(partText)
  it('is said part by part, edges and settings by their names', () => {
    expect(changed({})).toEqual([])
    expect(changed({ region: { ...frozen.region, in: 1, out: 49 } })).toEqual(['first frame', 'last frame'])
    expect(changed({ region: { ...frozen.region, metadata: {} }, route: [1] })).toEqual(['papers', 'sound channels'])
    expect(changed({ recipe: { ...frozen.recipe, gain: -3, soundDepth: 16 } })).toEqual(['gain', 'sound depth'])
    expect(changed({ spec: { id: 'open', rules: [{ id: 'new' }] } })).toEqual(['what the recipient requires'])
  })
  it('tells of the file only where nothing that it follows from has changed', () => {
    const output = { ...frozen.output, frames: 49 }
    expect(changed({ output })).toEqual(['what is made of it'])
    expect(changed({ output, region: { ...frozen.region, out: 49 } })).toEqual(['last frame'])
  })
})

describe('coded pictures are known again', () => {
  const shape = { codec: 'h264', width: 640, height: 360, rate: { num: 25, den: 1 }, scan: 'progressive' }
  const start = { frames: 0, label: '00:00:00:00', dropFrame: false }
  const viewing = {
    ...frozen,
    recipe: { ...plainSettings, kind: 'viewing' },
    output: { ...frozen.output, container: 'mp4', video: shape, start },
    steps: [{ kind: 'encode-segment' }],
  } as unknown as FrozenDeliverable
  const pictures = (changes: object) => picturesIdentityOf({ ...viewing, ...changes } as FrozenDeliverable)
  const recipeWith = (changes: object) => ({ recipe: { ...viewing.recipe, ...changes } })
  it.each([
    [
      'whatever is heard',
      { route: [1], ...recipeWith({ gain: -3, channels: [2], soundBitrate: 96, sampleRate: 44100 }) },
    ],
    [
      'whatever they are called',
      { region: { ...frozen.region, name: 'Bell', metadata: {} }, chapters: [{ at: 3, name: 'x' }] },
    ],
    ['whoever gets them', { outlet: { id: 'p', name: 'P' }, spec: { id: 'other', rules: [] } }],
    ['however they are looked at', recipeWith({ proofSpread: 0, contactSheet: 12 })],
    ['when they were taken themselves', { steps: [{ kind: 'check-earlier' }, { kind: 'take-segment' }] }],
    ['whatever follows from them', { output: { ...viewing.output, bytes: 9, video: { ...shape, level: '4' } } }],
  ])('%s', (_, changes) => expect(pictures(changes)).toBe(pictures({})))
  it.each([
    ['a frame', { region: { ...frozen.region, out: 51 } }],
    ['their media', { source: { ...frozen.source, fingerprint: { ...frozen.source.fingerprint, content: 'abd' } } }],
    ['what their media is taken for', { source: { ...frozen.source, scan: 'interlaced-tff' } }],
    ['a bit rate', recipeWith({ pictureBitrate: 3000 })],
    ['a colour', recipeWith({ colour: 'bt2020' })],
    ['their raster', { output: { ...viewing.output, video: { ...shape, width: 320 } } }],
    ['their place in the file', { output: { ...viewing.output, sections: [{ kind: 'black', frames: 3 }] } }],
    ['their first label', { output: { ...viewing.output, start: { ...start, frames: 25 } } }],
    ['another container', { output: { ...viewing.output, container: 'mov' } }],
    ['frames that stand in for damaged ones', { damaged: [{ in: 3, out: 4 }] }],
  ])('and are others with %s', (_, changes) => expect(pictures(changes)).not.toBe(pictures({})))
  it('are others with another name where that is drawn into them', () => {
    const named = (name: string) => pictures({ ...recipeWith({ burnName: true }), region: { ...frozen.region, name } })
    expect(named('Bell')).not.toBe(named('Fog Bell'))
  })
  it('are none where nothing is coded', () => {
    expect(picturesIdentityOf(frozen)).toBeNull()
    expect(pictures({ steps: [{ kind: 'rewrap' }] })).toBeNull()
    expect(pictures({ steps: [] })).toBeNull()
  })
})
