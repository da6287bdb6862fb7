import type { Kysely } from 'kysely'
import { identifyAnew } from './identities'

/**
 * Settings that are what every recipe was before it had them are no longer part of an identity: those of what was
 * delivered are worked out anew. A viewing copy that was made before scalers could be chosen was scaled by another one,
 * and is not known again.
 */
export const up = (db: Kysely<unknown>): Promise<void> =>
  identifyAnew(db, ({ recipe }, sheet) => recipe.kind !== 'viewing' || /"scaler":/.test(sheet))
