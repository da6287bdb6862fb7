import { z } from 'zod'

const text = z.string().max(1000)
/** The most workers that one machine may bring. */
export const mostJoined = 256

/** What a machine says of itself when it wants to take part in the work. */
export const joinSchema = z.object({
  name: z.string().trim().min(1).max(100),
  /** What it was built from: machines of other editions are not let in. */
  edition: text,
  workers: z.number().int().min(1).max(mostJoined),
  /** What it can decode and encode: `decode:h264`. */
  abilities: z.array(text).max(1000),
})
export type JoinRequest = z.output<typeof joinSchema>

/** A storage root of the machine that serves, as one that joins has to find it. */
export interface SharedRoot {
  readonly name: string
  /** What its folder is marked with; null where it bears no marker. */
  readonly marker: string | null
  /** A file below it, to be read by who says to see the same folder; null where the server cannot write there. */
  readonly token: string | null
}

/** What a machine is answered when it asks to join. */
export interface JoinAnswer {
  readonly id: string
  /** Whose scratch folders are used. */
  readonly installation: string
  readonly roots: readonly SharedRoot[]
}

/** The storage roots that a machine has found: what its tokens say, and whether it can write there. */
export const foundRootsSchema = z.object({
  roots: z.array(z.object({ name: text, token: text.nullable(), writable: z.boolean() })).max(1000),
})
export type FoundRoots = z.output<typeof foundRootsSchema>

/** What a worker of a joined machine asks: one of the calls of the engine, checked there. */
export const machineCallSchema = z.object({ call: text, input: z.unknown() })

/** A machine that takes part in the work, as the Shelf shows it. */
export interface MachineInfo {
  readonly id: string
  readonly name: string
  readonly workers: number
  /** Storage roots that it sees, and those that it can only read. */
  readonly writes: readonly string[]
  readonly reads: readonly string[]
  /** Storage roots that it does not see. */
  readonly unseen: readonly string[]
  /** What it cannot decode or encode of what this machine can. */
  readonly lacks: readonly string[]
  /** When it joined, ISO. */
  readonly since: string
  /** How many steps it has done since. */
  readonly done: number
}
