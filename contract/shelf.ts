import { z } from 'zod'
import type { Outlet } from '../core/deliverable/outlet'
import type { Problem } from '../core/problem'
import type { Abilities } from '../core/recipe/output'
import type { Recipe } from '../core/recipe/recipe'
import type { Spec } from '../core/spec/spec'
import type { MachineInfo } from './machines'

/** A worker process of the machine that serves. */
export interface WorkerInfo {
  readonly pid: number
  readonly index: number
}

/** A look-up table as lists show it. */
export interface ShelfTable {
  /** Of its name and what is in it: another table never gets it. */
  readonly id: string
  readonly name: string
  /** What it is, in a few words. */
  readonly shape: string
}

/** What adds a table: the name of its file, and what is in it. */
export const tableSchema = z.object({ file: z.string().min(1).max(255), text: z.string() })

/** Outlets, recipes, specs, and what this machine can do. */
export interface Shelf {
  readonly outlets: readonly Outlet[]
  readonly recipes: readonly Recipe[]
  readonly specs: readonly Spec[]
  readonly tables: readonly ShelfTable[]
  readonly abilities: Abilities
  readonly workers: readonly WorkerInfo[]
  /** Why workers cannot be started; null while they can. */
  readonly workerTrouble: Problem | null
  /** Bytes of memory that the machine has for all that runs on it. */
  readonly memory: number
  /** Machines that take part in the work of this one. */
  readonly machines: readonly MachineInfo[]
  /** Rows of the database that cannot be read and are left out. */
  readonly damaged: readonly Problem[]
}
