/**
 * What a region can be, as recipients ask for it: a new kind is a line here. Nothing follows from a kind but what
 * outlets ask.
 */
export const regionKinds = {
  programme: { one: 'programme', many: 'programmes' },
  part: { one: 'part', many: 'parts' },
  promo: { one: 'promo', many: 'promos' },
  trailer: { one: 'trailer', many: 'trailers' },
  titles: { one: 'titles', many: 'titles' },
  textless: { one: 'textless', many: 'textless elements' },
  'line-up': { one: 'line-up', many: 'line-ups' },
  break: { one: 'break', many: 'breaks' },
} as const

export type KindOfRegion = keyof typeof regionKinds

export const kindNames = Object.keys(regionKinds) as [KindOfRegion, ...KindOfRegion[]]

/** The kind of a name, whatever its capitals; null when it is none. */
export const kindNamed = (text: string): KindOfRegion | null =>
  kindNames.find((k) => k === text.trim().toLowerCase()) ?? null
