// Compiles the kernel (AssemblyScript with SIMD) into a module that Node, the browser and tests import alike.
import { realpathSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { fileURLToPath } from 'node:url'
import asc from 'assemblyscript/asc'

const folder = path.resolve(import.meta.dirname, '..', 'core', 'kernel')

export async function buildKernel() {
  let wasm = null
  const { error, stderr } = await asc.main(
    [
      ...['assembly/index.ts', '--baseDir', folder, '--outFile', 'kernel.wasm'],
      ...['-O3', '--runtime', 'stub', '--noAssert', '--enable', 'simd'],
    ],
    {
      writeFile(name, contents) {
        if (name.endsWith('.wasm')) wasm = contents
      },
    },
  )
  if (error) throw new Error(`The kernel could not be compiled.\n${stderr.toString()}`)
  const text = Buffer.from(wasm).toString('base64')
  writeFileSync(
    path.join(folder, 'built.ts'),
    `/** Compiled from assembly/; never edited. */\nexport const wasm =\n  '${text}'\n`,
  )
  return wasm.length
}

if (realpathSync(process.argv[1]) === fileURLToPath(import.meta.url)) await buildKernel()
