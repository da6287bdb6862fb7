// Adds to package-lock.json the builds of the codec package for other systems, which npm leaves out on this one
// and then misses in `npm ci`. Run after changing dependencies.
import { readFileSync, writeFileSync } from 'node:fs'

const file = new URL('../package-lock.json', import.meta.url)
const lock = JSON.parse(readFileSync(file, 'utf8'))
const cpus = { arm64: 'arm64', x64: 'x64', arm: 'arm' }
for (const [name, version] of Object.entries(lock.packages['node_modules/@napi-rs/webcodecs'].optionalDependencies)) {
  const key = `node_modules/${name}`
  if (lock.packages[key]) continue
  const [os, cpu] = name.replace('@napi-rs/webcodecs-', '').split('-')
  lock.packages[key] = {
    version,
    cpu: [cpus[cpu]],
    license: 'MIT',
    optional: true,
    os: [os],
    engines: { node: '>= 18' },
  }
}
lock.packages = Object.fromEntries(Object.entries(lock.packages).sort(([a], [b]) => (a < b ? -1 : 1)))
writeFileSync(file, `${JSON.stringify(lock, null, 2)}\n`)
