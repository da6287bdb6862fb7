import type { Shelf } from '../../../contract/shelf'
import { shippedRecipes } from '../../../core/recipe/registry'
import { machineAbilities } from '../../../engine/worker/codecs'

/** Outlets, recipes, specs, and what this machine can do. */
export default route(async (session): Promise<Shelf> => ({
  outlets: await session.outlets.list(),
  recipes: shippedRecipes(),
  specs: await session.outlets.specs(),
  abilities: await machineAbilities(),
  workers: session.pool.list(),
}))
