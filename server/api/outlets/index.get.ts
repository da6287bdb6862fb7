import { shippedRecipes } from '../../../core/recipe/registry'
import { machineAbilities } from '../../../engine/worker/codecs'

/** Outlets, recipes, specs, choices, and what this machine can do. */
export default route(async (session) => ({
  outlets: await session.outlets.list(),
  recipes: shippedRecipes(),
  specs: await session.outlets.specs(),
  choices: await session.outlets.choices(),
  abilities: await machineAbilities(),
  workers: session.pool.list(),
}))
