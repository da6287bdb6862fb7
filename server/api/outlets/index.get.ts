import { machineAbilities } from '../../../engine/worker/codecs'
import { shippedRecipes } from '../../../core/recipe/recipe'

/** Outlets, recipes, specs, assignments, and what this machine can do. */
export default route(async (engine) => ({
  outlets: await engine.outlets.list(),
  recipes: shippedRecipes,
  specs: await engine.outlets.specs(),
  assignments: await engine.outlets.assignments(),
  abilities: await machineAbilities(),
  workers: engine.crew.list(),
}))
