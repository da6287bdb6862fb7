import type { UnitPlan } from '../container'
import { nominalRate } from '../../time/rate'
import { definitions, op1a, wrappings } from './labels'
import type { Essence } from './essence'
import { value, writeSets, type MetadataSet } from './sets'
import type { SetKind } from './tags'

/** Identities of sets and packages, all made from that of the file: the same file is described the same each time. */
class Identities {
  private count = 0

  constructor(private readonly identity: Uint8Array) {}

  next(): Uint8Array {
    const id = this.identity.slice()
    const n = ++this.count
    id[14] = id[14]! ^ (n >> 8)
    id[15] = id[15]! ^ (n & 255)
    // a UUID of version 4 by its form (RFC 9562 5.4)
    id[6] = (id[6]! & 0x0f) | 0x40
    id[8] = (id[8]! & 0x3f) | 0x80
    return id
  }

  /** A basic UMID (SMPTE ST 330 5): material not identified, its number a UUID. */
  umid(): Uint8Array {
    const label = value.label('060a2b340101010501010f2013000000')
    return Uint8Array.of(...label, ...this.next())
  }
}

const noPackage = new Uint8Array(32)
/** Interchange objects are of version 1.3 (ST 377-1:2011). */
const version = 0x0103

/** The metadata of a file's header: what it holds, and how it is described (SMPTE ST 377-1 9 and annexes). */
export function headerMetadata(
  plan: UnitPlan,
  essence: readonly Essence[],
  sids: { readonly body: number; readonly index: number },
): { bytes: Uint8Array; containers: Uint8Array[] } {
  const containers = [...new Set([wrappings.multiple, ...essence.map((e) => e.wrapping)])].map(value.label)
  const header = new Header(plan, essence)
  return { bytes: writeSets(header.write(containers, sids)), containers }
}

class Header {
  private readonly ids: Identities
  private readonly list: MetadataSet[] = []
  private readonly rate: Uint8Array
  private readonly duration: Uint8Array

  constructor(
    private readonly plan: UnitPlan,
    private readonly essence: readonly Essence[],
  ) {
    this.ids = new Identities(plan.identity)
    this.rate = value.rational(plan.rate)
    this.duration = value.i64(plan.frames)
  }

  private add(kind: SetKind, values: MetadataSet['values'], id = this.ids.next()): Uint8Array {
    this.list.push({ kind, id, values })
    return id
  }

  write(containers: readonly Uint8Array[], sids: { readonly body: number; readonly index: number }): MetadataSet[] {
    const { ids, plan } = this
    const [preface, identification, storage] = [ids.next(), ids.next(), ids.next()]
    const [materialId, sourceId] = [ids.umid(), ids.umid()]
    const [material, source, data] = [ids.next(), ids.next(), ids.next()]
    this.preface(preface, identification, storage, containers)
    this.add('storage', { packages: value.list([material, source]), essenceData: value.list([data]) }, storage)
    const linked = { linkedPackage: sourceId, bodySid: value.u32(sids.body), indexSid: value.u32(sids.index) }
    this.add('essenceData', linked, data)
    const dates = { created: value.noDate, packageModified: value.noDate }
    const named = plan.name ? { packageName: value.text(plan.name) } : {}
    const shown = [...this.tracks(sourceId), ...this.markers(), ...this.papers()]
    this.add('material', { packageId: materialId, ...named, ...dates, tracks: value.list(shown) }, material)
    const tracks = value.list(this.tracks(null))
    const descriptor = ids.next()
    this.add('source', { packageId: sourceId, ...dates, tracks, descriptor }, source)
    this.descriptors(descriptor)
    return this.list
  }

  private preface(id: Uint8Array, identification: Uint8Array, storage: Uint8Array, containers: readonly Uint8Array[]) {
    this.add(
      'preface',
      {
        modified: value.noDate,
        version: value.u16(version),
        objectModel: value.u32(1),
        identifications: value.list([identification]),
        contentStorage: storage,
        operationalPattern: value.label(op1a),
        essenceContainers: value.list(containers),
        schemes: value.list([]),
      },
      id,
    )
    this.add(
      'identification',
      {
        generation: this.ids.next(),
        company: value.text('Velvet Crane'),
        product: value.text('Velvet Crane'),
        versionText: value.text('1'),
        productId: value.label('56656c76657400004372616e65000001'),
        identified: value.noDate,
      },
      identification,
    )
  }

  /** The tracks of a package: timecode and essence, taken from a source package or being there. */
  private tracks(from: Uint8Array | null): Uint8Array[] {
    const { start, rate } = this.plan
    const timecode = this.track(1, 0, definitions.timecode, 'timecode', {
      startTimecode: value.i64(start.frames),
      timecodeBase: value.u16(nominalRate(rate)),
      dropFrame: value.flag(start.dropFrame),
    })
    const essence = this.essence.map((e, i) =>
      this.track(i + 2, from ? 0 : e.number, e.definition, 'clip', {
        startPosition: value.i64(0),
        sourcePackage: from ?? noPackage,
        sourceTrack: value.u32(from ? i + 2 : 0),
      }),
    )
    return [timecode, ...essence]
  }

  /** A track of one component: its sequence, and what is in it. */
  private track(id: number, number: number, definition: string, kind: SetKind, values: MetadataSet['values']) {
    const [own, sequence, component] = [this.ids.next(), this.ids.next(), this.ids.next()]
    const numbers = { trackId: value.u32(id), trackNumber: value.u32(number) }
    this.add('track', { ...numbers, editRate: this.rate, origin: value.i64(0), sequence }, own)
    const shared = { definition: value.label(definition), duration: this.duration }
    this.add('sequence', { ...shared, components: value.list([component]) }, sequence)
    this.add(kind, { ...shared, ...values }, component)
    return own
  }

  /** Chapters as an event track of the programme, each a segment with a comment (ST 377-1 B.18, B.33). */
  private markers(): Uint8Array[] {
    const { chapters } = this.plan
    if (chapters.length === 0) return []
    const definition = value.label(definitions.description)
    const [own, sequence] = [this.ids.next(), this.ids.next()]
    const numbers = { trackId: value.u32(this.essence.length + 2), trackNumber: value.u32(0) }
    this.add('eventTrack', { ...numbers, eventRate: this.rate, eventOrigin: value.i64(0), sequence }, own)
    const segments = chapters.map(({ at, name }) =>
      this.add('marker', {
        ...{ definition, duration: value.i64(1) },
        ...{ eventStart: value.i64(at), eventComment: value.text(name) },
      }),
    )
    this.add('sequence', { definition, components: value.list(segments) }, sequence)
    return [own]
  }

  /** Programme metadata as a static track of the programme: a comment `field=value` for each (ST 377-1 B.17, B.33). */
  private papers(): Uint8Array[] {
    const fields = Object.entries(this.plan.metadata ?? {})
    if (fields.length === 0) return []
    const definition = value.label(definitions.description)
    const [own, sequence] = [this.ids.next(), this.ids.next()]
    const numbers = { trackId: value.u32(this.essence.length + 3), trackNumber: value.u32(0) }
    this.add('staticTrack', { ...numbers, sequence }, own)
    const segments = fields.map(([name, said]) =>
      this.add('marker', {
        definition,
        eventComment: value.text(`${name.replace(/[%=]/g, encodeURIComponent)}=${said}`),
      }),
    )
    this.add('sequence', { definition, components: value.list(segments) }, sequence)
    return [own]
  }

  private descriptors(multiple: Uint8Array): void {
    const shared = { sampleRate: this.rate, containerDuration: this.duration }
    const described = this.essence.map((e, i) => {
      const further = e.further.map(({ kind, values }) => this.add(kind, values))
      return this.add(e.kind, {
        linkedTrack: value.u32(i + 2),
        ...shared,
        essenceContainer: value.label(e.wrapping),
        ...e.values,
        ...(further.length ? { furtherDescriptors: value.list(further) } : {}),
      })
    })
    const container = value.label(wrappings.multiple)
    this.add('multiple', { ...shared, essenceContainer: container, subDescriptors: value.list(described) }, multiple)
  }
}
