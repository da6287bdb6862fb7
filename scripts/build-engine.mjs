// Bundles what runs outside the browser and the web server: worker processes, command line, demo maker, bench.
import { realpathSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { build } from 'esbuild'
import { buildKernel } from './build-kernel.mjs'

/** What esbuild is told; `npm run dev` builds the same on every change. */
export const engineBundle = {
  entryPoints: {
    worker: 'engine/worker/process.ts',
    cli: 'cli/main.ts',
    demo: 'demo/make.ts',
    bench: 'bench/main.ts',
    soak: 'bench/soak.ts',
  },
  outdir: 'dist',
  bundle: true,
  platform: 'node',
  target: 'node20',
  format: 'esm',
  packages: 'external',
  outExtension: { '.js': '.mjs' },
  sourcemap: true,
  logLevel: 'warning',
  chunkNames: 'chunk-[hash]',
  splitting: true,
}

if (realpathSync(process.argv[1]) === fileURLToPath(import.meta.url)) {
  await buildKernel()
  await build(engineBundle)
}
