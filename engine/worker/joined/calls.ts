import { z } from 'zod'
import { mostJoined } from '../../../contract/machines'
import type { Proof } from '../../../core/deliverable/proof'
import type { FrozenDeliverable } from '../../../core/deliverable/sheet'
import { having } from '../../../core/having'
import type { Problem } from '../../../core/problem'
import type { Claim } from '../../queue/port'
import { proofEnds } from '../../storage/cache'
import type { Sibling } from '../ports'

/** A claim as it is named over the network: what else belongs to it is known where it is kept. */
export type ClaimRef = Pick<Claim, 'step' | 'fence' | 'worker'>

const text = z.string().max(10_000)
const claim = z.object({ step: z.number().int(), fence: z.number().int(), worker: text })
const asking = { worker: text, places: z.array(text) }
const problem = having<Problem>('code', 'message')

/** A call: what it is sent with, and what it answers. */
interface Call<S extends z.ZodType, A> {
  readonly input: S
  readonly answer?: A
}
const gives =
  <A>() =>
  <S extends z.ZodType>(input: S): Call<S, A> => ({ input })

/** All that a worker of a joined machine asks the machine that serves: its ports, one call for each thing they do. */
export const calls = {
  /** That the machine is still there, and how much memory each of its workers has, bytes. */
  beat: gives<null>()(z.object({ memory: z.array(z.tuple([text, z.number()])).max(mostJoined) })),
  /** `anew`: the answer to an earlier try may have been lost, and with it a claim. */
  claim: gives<Claim | null>()(z.object({ ...asking, anew: z.boolean() })),
  companions: gives<Claim[]>()(z.object({ ...asking, claim })),
  renew: gives<null>()(z.object({ claim, framesDone: z.number() })),
  results: gives<[string, unknown][]>()(z.object({ claim })),
  finish: gives<null>()(z.object({ claim, result: z.unknown() })),
  fail: gives<null>()(z.object({ claim, problem })),
  /** Whether a step that failed there is tried here before it fails. */
  takeBack: gives<boolean>()(z.object({ claim, problem })),
  release: gives<null>()(z.object({ claim })),
  setAside: gives<null>()(z.object({ claim, roots: z.array(text), problem })),
  abandon: gives<null>()(z.object({ worker: text })),
  facts: gives<[string, unknown][]>()(z.object({ keys: z.array(text) })),
  table: gives<string>()(z.object({ id: text })),
  frozen: gives<FrozenDeliverable | null>()(z.object({ deliverable: text })),
  noted: gives<{ path: string; proof: Proof } | null>()(z.object({ deliverable: text })),
  note: gives<null>()(z.object({ claim, path: text, proof: having<Proof>('files', 'results') })),
  /** A picture of a proof; JPEG as base64. */
  still: gives<string>()(z.object({ claim, end: z.enum(proofEnds), jpeg: z.string() })),
  siblings: gives<Sibling[]>()(z.object({ run: text, outlet: text })),
}

export type CallName = keyof typeof calls
export type InputOf<C extends CallName> = z.output<(typeof calls)[C]['input']>
export type AnswerOf<C extends CallName> = (typeof calls)[C] extends Call<z.ZodType, infer A> ? A : never

/** Problems that tell a worker something, rather than a person. */
export const claimLost = 'claim.lost'
export const machineUnknown = 'machine.unknown'
export const otherEdition = 'machine.other-edition'
