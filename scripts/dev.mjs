// Server, workers and page on the demo data, reloaded on change: the engine is bundled anew by esbuild, server and page
// by Nuxt; the server opens its session anew, which starts workers from the new bundle.
import { spawn, spawnSync } from 'node:child_process'
import path from 'node:path'
import { context } from 'esbuild'
import { engineBundle } from './build-engine.mjs'
import { buildKernel } from './build-kernel.mjs'

const home = path.resolve(import.meta.dirname, '..')
const folder = path.join(home, '.velvet', 'demo')
await buildKernel()
const bundle = await context(engineBundle)
await bundle.rebuild()
const env = { ...process.env, VELVET_HOME: home }
const made = spawnSync(process.execPath, [path.join(home, 'dist', 'demo.mjs'), folder], { stdio: 'inherit', env })
if (made.status !== 0) process.exit(made.status ?? 1)
await bundle.watch()
const nuxt = spawn(
  process.execPath,
  [path.join(home, 'node_modules', 'nuxt', 'bin', 'nuxt.mjs'), 'dev', '--host', '127.0.0.1', '--port', '4180'],
  {
    stdio: 'inherit',
    cwd: home,
    env: {
      ...env,
      NUXT_TELEMETRY_DISABLED: '1',
      VELVET_DATA: path.join(folder, 'data'),
      VELVET_STORAGE: JSON.stringify([path.join(folder, 'storage')]),
      VELVET_HOST: '127.0.0.1',
      VELVET_CHECK_ANSWERS: '1',
    },
  },
)
nuxt.on('exit', (code) => process.exit(code ?? 0))
