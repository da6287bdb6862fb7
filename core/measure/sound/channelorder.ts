import type { Overrides } from '../../recipe/recipe'
import { canDownmix } from '../../sound/downmix'
import { inUsualOrder, mixesIn, routeOf, saidLayout, sourceChannels, unnamed, type Mix } from '../../sound/layout'
import { said, type Measure } from '../measure'

/** What is one channel or more of the same is in no order. */
const isPair = ([a, b]: readonly string[]) => a === b || [a, b].includes(unnamed) || (a === 'L' && b === 'R')

/** Mixes whose channels stand in another order than that of EBU R 123, or the two of another mix than one of two. */
const amiss = (layout: string): Mix[] => {
  const mixes = mixesIn(layout)
  const names = mixes.flat().map((c) => c.name)
  if (names.length === 2) return isPair(names) ? [] : mixes
  return mixes.filter((mix) => inUsualOrder(mix).some((c, i) => c !== mix[i]))
}

/** What makes a pair of the first mix that has left and right: these, or all of it where it has a centre too. */
function pairOf(layout: string): Pick<Overrides, 'channels' | 'downmix'> | null {
  for (const mix of mixesIn(layout)) {
    const places = ['L', 'R', 'C'].map((name) => mix.find((c) => c.name === name))
    const [l, r, c] = places.map((place) => place && place.at + 1)
    const whole = c && canDownmix(mix.map(({ name }) => name).join(' '))
    if (l && r) return whole ? { channels: mix.map(({ at }) => at + 1), downmix: 'stereo' } : { channels: [l, r] }
  }
  return null
}

/**
 * Whether the channels of each mix stand as EBU R 123 orders them (L R C LFE Ls Rs), where something says which is
 * which: film has another order, and a recipient who is not told takes the centre for the right.
 */
export const channelOrder: Measure = {
  name: 'channel-order',
  label: 'Order of channels',
  group: 'sound',
  counts: true,
  read({ described, layout }) {
    if (described && !described.audio) return said('none', 'no sound')
    if (layout === undefined) return null
    if (layout === null) return said('not named', 'nothing says which is which')
    return said(amiss(layout).length === 0 ? 'usual' : 'other', layout)
  },
  words: () => 'that of EBU R 123',
  fix({ forecast, recipe, media }) {
    if (forecast?.value !== 'other') return null
    const route = routeOf(recipe.channels, sourceChannels(media))
    if (route.length === 2) return pairOf(saidLayout(media.audio) ?? unnamed)
    const channels = [...route]
    for (const mix of amiss(saidLayout(media.audio, route) ?? unnamed))
      inUsualOrder(mix).forEach((c, i) => (channels[mix[i]!.at] = route[c.at]!))
    return { channels: channels.map((c) => c + 1) }
  },
}
