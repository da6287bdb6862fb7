import type { Kysely } from 'kysely'
import { identifyAnew } from './identities'

/** What is seen and heard in a region is part of its identity now, in the place of where it lies. */
export const up = (db: Kysely<unknown>): Promise<void> => identifyAnew(db)
