import { concatBytes } from '../../core/bytes'
import type { PictureCodec } from '../../core/codec/codec'
import { plainPictures } from '../../core/codec/plain'
import type { Container } from '../../core/container/container'
import { said, type Measure } from '../../core/measure/measure'
import { blackPicture, type Picture } from '../../core/picture/picture'
import { basisOf } from '../../core/recipe/output'
import type { RecipeKind } from '../../core/recipe/recipe'
import { plainSettings } from '../../core/recipe/settings'
import type { SplitMaker } from '../../core/split/makers/maker'
import type { TimelineFormat } from '../../core/timeline/formats/format'
import { makeRate } from '../../core/time/rate'

// One of each kind of thing, as small as it can be: what a newcomer would write to add one.

const word = (text: string) => new TextEncoder().encode(text)
const rate = makeRate(25)

/** A codec whose pictures are of one grey each: a byte a picture. */
export const grey: PictureCodec = {
  name: 'grey',
  label: 'Grey',
  calls: { mp4: { entries: ['grey'], brands: ['mov'] } },
  describe: () => ({ chroma: '4:2:2', bitDepth: 8 }),
  decode: plainPictures(
    () => 1,
    (bytes, width, height): Picture => {
      const p = blackPicture(width, height, '4:2:2', 8)
      p.planes[0].fill(bytes[0]!)
      return p
    },
  ),
  encode: {
    needsWeb: false,
    bitDepth: 8,
    as: () => ({ chroma: '4:2:2', profile: null, level: null }),
    frameBytes: () => 1,
    open() {
      const units: { bytes: Uint8Array; sync: boolean }[] = []
      return {
        feed: (picture) =>
          Promise.resolve(void units.push({ bytes: Uint8Array.of(picture.planes[0][0]!), sync: true })),
        take: () => units.splice(0),
        flush: () => Promise.resolve(),
        configuration: () => null,
        close: () => undefined,
      }
    },
  },
}

/** A container that is the word TOYS, a byte for width and height, and a byte a frame. */
export const toys: Container = {
  name: 'toys',
  brands: [{ name: 'toys', label: 'TOYS', extensions: ['.toys'], mime: 'video/x-toys', pictures: true }],
  recognise: (head) => new TextDecoder().decode(head.subarray(0, 4)) === 'TOYS',
  async open(source) {
    const [width, height] = (await source.read(4, 2)) as unknown as [number, number]
    const frames = source.size - 6
    const info = {
      codec: 'grey',
      profile: null,
      level: null,
      width,
      height,
      rate,
      constantRate: true,
      scan: 'progressive',
      chroma: '4:2:2',
      bitDepth: 8,
      pixelAspect: '1:1',
      colour: null,
      frames,
      intra: true,
      webCodec: null,
    } as const
    return {
      source,
      audio: [],
      video: [
        {
          info,
          timescale: 25,
          sampleCount: frames,
          configuration: null,
          native: null,
          sample: (i) => ({ offset: 6 + i, size: 1, dts: i, pts: i, sync: true }),
          sampleOfFrame: (n) => n,
          syncBefore: (i) => i,
        },
      ],
      info: {
        container: 'toys',
        indexAt: 'front',
        size: source.size,
        durationFrames: frames,
        durationSeconds: frames / 25,
        timecode: null,
        video: [info],
        audio: [],
        chapters: [],
        bext: null,
        problems: [],
      },
    }
  },
  units: (_, { video: { width, height }, frames }) => ({
    head: concatBytes([word('TOYS'), Uint8Array.of(width, height)]),
    tail: { at: 6 + frames, bytes: new Uint8Array(0) },
    unit: (frame, picture) => [{ at: 6 + frame, bytes: picture }],
  }),
}

/** A recipe that makes toys: grey pictures of sixteen by sixteen, in place. */
export const toyRecipe: RecipeKind = {
  kind: 'toy',
  label: 'a toy',
  settings: ['container'],
  shipped: { ...plainSettings, id: 'toy', name: 'Toy', kind: 'toy', container: 'toys', width: 16, height: 16 },
  copies: false,
  encodes: ['grey'],
  output(request) {
    const b = basisOf(request)
    return {
      ...b.shared,
      container: 'toys',
      video: b.picture && {
        codec: 'grey',
        profile: null,
        width: 16,
        height: 16,
        chroma: '4:2:2',
        bitDepth: 8,
        ...b.picture,
        // a toy file has no place for it
        colour: null,
      },
      audio: null,
      bytes: b.shared.frames + 6,
    }
  },
  steps: ({ range }) => [{ key: 'toy', kind: 'encode-in-place', needs: [], range, abilities: [] }],
}

/** A measure of how many letters a codec's name has. */
export const letters: Measure = {
  name: 'letters',
  label: 'Letters',
  group: 'structure',
  unit: ' letters',
  read: ({ described: d }) => (d?.video ? said(d.video.codec.length, `${d.video.codec.length} letters`) : null),
}

/** A format that says only how long a timeline is: `SAY 250`. */
export const saying: TimelineFormat = {
  name: 'say',
  label: 'a saying',
  extensions: ['.say'],
  holds: 'timeline',
  recognise: (head) => head.startsWith('SAY '),
  read: (text, fileName) => ({
    timeline: {
      name: fileName,
      rate,
      dropFrame: false,
      start: 0,
      length: Number(text.slice(4)),
      tracks: [],
      events: [],
      markers: [],
    },
    problems: [],
  }),
  write: (t) => ({ text: `SAY ${t.length}`, problems: [] }),
}

/** A way to split a timeline into halves. */
export const halves: SplitMaker = {
  name: 'halves',
  label: 'two halves',
  hint: 'Two halves.',
  make: ({ timeline: { length } }) => [
    { name: 'first half', in: 0, out: length >> 1 },
    { name: 'second half', in: length >> 1, out: length },
  ],
}
