import { describe, expect, it } from 'vitest'
import { identityOf } from './identity'
import type { FrozenDeliverable } from './sheet'

const frozen = {
  id: 'run-001',
  source: { root: 'storage', path: 'reel.mov', fingerprint: { size: 9, modified: 1, content: 'abc' } },
  region: { id: 'r', name: 'Fog Bell', in: 0, out: 50, metadata: { 'production number': 'FA-103' } },
  chapters: [],
  outlet: { id: 'o', name: 'Osprey' },
  recipe: { kind: 'sound', gain: 0 },
  spec: { id: 'open', rules: [] },
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
    ['with a setting that came later, as every recipe was before', { recipe: { ...frozen.recipe, soundDepth: 24 } }],
    ['whatever the order of its keys', { region: Object.fromEntries(Object.entries(frozen.region).reverse()) }],
  ])('%s', (_, changes) => expect(same(changes)).toBe(true))
  it.each([
    ['an edge', { region: { ...frozen.region, out: 51 } }],
    ['its name', { region: { ...frozen.region, name: 'Fog' } }],
    ['its metadata', { region: { ...frozen.region, metadata: {} } }],
    ['its media', { source: { ...frozen.source, fingerprint: { ...frozen.source.fingerprint, content: 'abd' } } }],
    ['a setting', { recipe: { kind: 'sound', gain: -3 } }],
    ['a setting that came later', { recipe: { kind: 'sound', gain: 0, soundDepth: 16 } }],
    ['a rule of its recipient', { spec: { id: 'open', rules: [{ id: 'new' }] } }],
    ['its channels', { route: [1, 0] }],
    ['its outlet', { outlet: { id: 'p', name: 'Osprey' } }],
    ['a chapter', { chapters: [{ at: 3, name: 'Chain' }] }],
  ])('and is another with %s changed', (_, changes) => expect(same(changes)).toBe(false))
})
