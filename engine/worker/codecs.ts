import { createRequire } from 'node:module'
import path from 'node:path'
import { pictureCodecs, soundCodecs } from '../../core/codec/registry'
import type { WebCodecs } from '../../core/codec/web/webcodecs'
import { stillFormats } from '../../core/stills/registry'
import type { Abilities } from '../../core/recipe/output'
import { home } from '../storage/home'

let loaded: WebCodecs | null | undefined

/** The machine's WebCodecs, when the optional package is installed; null when not. */
export function machineCodecs(): WebCodecs | null {
  if (loaded === undefined) {
    try {
      loaded = createRequire(path.join(home(), 'package.json'))('@napi-rs/webcodecs') as WebCodecs
    } catch {
      loaded = null
    }
  }
  return loaded
}

let abilities: Promise<Abilities> | undefined

/** What this machine can encode and decode. */
export function machineAbilities(): Promise<Abilities> {
  return (abilities ??= findAbilities(machineCodecs()))
}

async function findAbilities(web: WebCodecs | null): Promise<Abilities> {
  const all = [...pictureCodecs, ...soundCodecs]
  const decodes = all.filter((c) => web !== null || !c.decode.needsWeb).map((c) => c.name)
  const encodes: string[] = []
  const supported = (asked: Promise<{ supported?: boolean }> | undefined) =>
    asked?.then(
      (s) => s.supported === true,
      () => false,
    ) ?? Promise.resolve(false)
  for (const { name, encode } of pictureCodecs)
    if (encode && (!encode.needsWeb || (await supported(web?.VideoEncoder.isConfigSupported(encode.probe!)))))
      encodes.push(name)
  for (const { name, encode } of soundCodecs)
    if (encode && (!encode.needsWeb || (await supported(web?.AudioEncoder.isConfigSupported(encode.probe!)))))
      encodes.push(name)
  return { decodes: [...decodes, ...stillFormats.map((f) => f.codec)], encodes }
}

/** Abilities as steps ask for them. */
export function abilityNames({ decodes, encodes }: Abilities): string[] {
  return [...decodes.map((c) => `decode:${c}`), ...encodes.map((c) => `encode:${c}`)]
}
