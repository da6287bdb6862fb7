// Bundles what runs outside the browser and the web server: worker processes, command line, demo maker, bench.
import { build } from 'esbuild'
import { existsSync } from 'node:fs'

const entries = { worker: 'engine/worker/process.ts', cli: 'cli/main.ts', demo: 'demo/make.ts', bench: 'bench/main.ts' }
await build({
  entryPoints: Object.fromEntries(Object.entries(entries).filter(([, f]) => existsSync(f))),
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
})
