import type { PictureFacts } from '../analysis/pictures'
import type { SoundFacts } from '../analysis/soundfacts'
import type { Sums } from '../files/checksums'
import { isRun } from '../files/fileset'
import type { MediaInfo } from '../media/media'
import type { RuleResult, Verdict } from '../spec/judge'
import { plural } from '../text'
import type { Frames } from '../time/rate'

/** One file of a deliverable as it was written. */
export interface Artefact {
  /** `main` is what was asked for; others go with it. */
  readonly role: 'main' | 'chapters' | 'contact sheet'
  /** Below the outlet's root; empty where an earlier edition kept it elsewhere. */
  readonly path: string
  readonly size: number
  /** Of a run of stills: of the list of each kind that stands beside them. */
  readonly sums: Sums
}

/** A file as earlier editions kept it: with both of their sums; of a run those of the one list there was. */
type FormerArtefact = Omit<Artefact, 'sums'> & { readonly sha256: string; readonly xxh64: string }

/** A proof as it is kept now. */
export const proofOfNow = (proof: Proof): Proof => ({
  ...proof,
  files: (proof.files as readonly (Artefact | FormerArtefact)[]).map((f) => {
    if ('sums' in f) return f
    const { sha256, xxh64, ...file } = f
    return { ...file, sums: isRun(f.path) ? { sha256 } : { sha256, xxh64 } }
  }),
})

/** What is known of a finished deliverable: kept with it and in the report. */
export interface Proof {
  /** The main file first. */
  readonly files: readonly Artefact[]
  readonly info: MediaInfo
  readonly frames: Frames
  /** Pictures that were decoded when it was proven; absent in proofs of earlier editions, which decoded all. */
  readonly decoded?: Frames
  /** The earlier file that its coded pictures were taken from as they are; absent where they were made. */
  readonly taken?: string
  readonly results: readonly RuleResult[]
  readonly verdict: Verdict
  readonly sound: SoundFacts | null
  /** Short-term loudness of each tenth of a second, LUFS. */
  readonly ribbon: readonly (number | null)[]
  readonly content: PictureFacts | null
  /** See {@link contentEdition}; absent where an earlier edition looked. */
  readonly contentEdition?: number
  /** Mean luma difference to the timeline's own picture. */
  readonly ends: { readonly first: number; readonly last: number } | null
  /** First and last pictures as written and of the timeline, as JPEG files in the cache. */
  readonly stills: {
    readonly first: string
    readonly last: string
    readonly firstTimeline: string
    readonly lastTimeline: string
  } | null
}

/** The file that was asked for. */
export function mainFile(proof: Proof): Artefact {
  return proof.files[0]!
}

/** How many pictures were decoded, in words; null of sound alone and of proofs that do not say. */
export function decodedText({ decoded, frames, taken }: Proof): string | null {
  if (decoded === undefined) return null
  if (decoded === 0) return 'No picture can be decoded here: every coded byte of them is the source’s.'
  if (decoded === frames) return `All ${plural(frames, 'picture')} decoded.`
  const rest = `of the others every coded byte is what was ${taken === undefined ? 'encoded' : 'taken'}`
  return `${decoded} of ${plural(frames, 'picture')} decoded, at the ends, at joints and between; ${rest}.`
}

/** Where pictures come from that were not made for a file, in words; null where they were. */
export const takenText = ({ taken }: Pick<Proof, 'taken'>): string | null =>
  taken === undefined ? null : `Its pictures are those of ${taken}, coded as they were proven there.`
