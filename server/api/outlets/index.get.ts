import { shippedRecipes } from '../../../core/recipe/registry'
import { damagedRows } from '../../../engine/store/damage'
import { machineAbilities } from '../../../engine/worker/codecs'
import { machineMemory } from '../../../engine/worker/pool'

/** Outlets, recipes, specs, and what this machine can do. */
export default route('GET outlets', async (session) => ({
  outlets: await session.outlets.list(),
  recipes: shippedRecipes(),
  specs: await session.outlets.specs(),
  tables: await session.outlets.tables(),
  abilities: await machineAbilities(),
  workers: session.pool.list(),
  workerTrouble: session.pool.trouble,
  memory: machineMemory(),
  machines: session.machines.list(),
  damaged: damagedRows(session.db),
}))
