import { randomBytes, timingSafeEqual } from 'node:crypto'
import { existsSync, mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import { hostname, networkInterfaces } from 'node:os'
import path from 'node:path'

const loopback = new Set(['127.0.0.1', 'localhost', '[::1]', '::1'])
const host = () => process.env.VELVET_HOST ?? '127.0.0.1'

/** Names this server may be called by: this machine's own, and where it serves all of its addresses, those. */
export function servedNames(): Set<string> {
  const everywhere = host() === '0.0.0.0' || host() === '::'
  const addresses = Object.values(networkInterfaces()).flatMap((list) => list ?? [])
  return new Set([
    ...loopback,
    host(),
    ...(everywhere ? [hostname(), ...addresses.map((a) => (a.family === 'IPv6' ? `[${a.address}]` : a.address))] : []),
  ])
}

/** Those of the names that others can reach it by. */
export const addressesForOthers = () =>
  [...servedNames()].filter((name) => !loopback.has(name) && !/^(0\.0\.0\.0|::|\[fe80)/.test(name))

let kept: string | null | undefined

/**
 * The key that browsers show once to be let in, when others than this machine are served; null when it serves itself
 * alone. It is made once for a data folder, readable by its owner only.
 */
export function accessKey(): string | null {
  if (kept !== undefined) return kept
  if (loopback.has(host())) return (kept = null)
  const file = path.join(path.resolve(process.env.VELVET_DATA ?? '.velvet/data'), 'access-key')
  const found = existsSync(file) ? readFileSync(file, 'utf8').trim() : ''
  // an empty file, as a power cut may leave it, is no key: nothing at all would match it
  if (found) return (kept = found)
  mkdirSync(path.dirname(file), { recursive: true })
  const key = randomBytes(18).toString('base64url')
  const part = `${file}.part`
  rmSync(part, { force: true })
  writeFileSync(part, `${key}\n`, { mode: 0o600, flush: true })
  renameSync(part, file)
  return (kept = key)
}

/** Whether what was shown is the key, told in the same time whatever was shown. */
export function isKey(shown: string | undefined, key: string): boolean {
  if (!shown) return false
  const [a, b] = [Buffer.from(shown), Buffer.from(key)]
  return a.length === b.length && timingSafeEqual(a, b)
}
