import lantern from './shipped/lantern.json' with { type: 'json' }
import northmere from './shipped/northmere.json' with { type: 'json' }
import osprey from './shipped/osprey.json' with { type: 'json' }
import { parseSpec, type Spec } from './spec'

/** The specs that come with the product. */
export const shippedSpecs: readonly Spec[] = [northmere, osprey, lantern].map(parseSpec)

/** A spec that asks for nothing beyond the house rules. */
export const openSpec: Spec = {
  format: 'velvet-crane-spec/1',
  id: 'open',
  name: 'No requirements',
  recipient: '',
  issued: '',
  rules: [],
}
