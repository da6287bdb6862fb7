import { z } from 'zod'

/** A kind of checksum, as it is written in lists: in hexadecimal digits. */
export interface ChecksumKind {
  readonly name: string
  readonly label: string
  readonly digits: number
  /** What a list of its sums ends in. */
  readonly ending: `.${string}`
}

/** MD5 (RFC 1321), SHA-1 and SHA-256 (FIPS 180-4), and the 64 bits of xxHash. */
export const checksumKinds = [
  { name: 'md5', label: 'MD5', digits: 32, ending: '.md5' },
  { name: 'sha1', label: 'SHA-1', digits: 40, ending: '.sha1' },
  { name: 'sha256', label: 'SHA-256', digits: 64, ending: '.sha256' },
  { name: 'xxh64', label: 'xxHash64', digits: 16, ending: '.xxh64' },
] as const satisfies readonly ChecksumKind[]

export type ChecksumName = (typeof checksumKinds)[number]['name']

/** Sums of one file, lower-case hexadecimal digits, by their kind. */
export type Sums = Readonly<Partial<Record<ChecksumName, string>>>

/** Which kinds of checksum a recipient is sent. */
export const checksumsSchema = z.array(z.enum(checksumKinds.map((k) => k.name))).min(1, 'choose a kind of checksum')

/** What is sent where nobody chose. */
export const usualChecksums: readonly ChecksumName[] = ['sha256']

/** The kinds that are among sums, in the order of the kinds. */
export const kindsIn = (sums: Sums) => checksumKinds.filter((k) => sums[k.name] !== undefined)

/** Of several sums of a file the one that tells most. */
export function chiefSum(sums: Sums): { readonly kind: ChecksumName; readonly sum: string } | null {
  const [chief] = kindsIn(sums).sort((a, b) => b.digits - a.digits)
  return chief ? { kind: chief.name, sum: sums[chief.name]! } : null
}

export const checksumKind = (name: ChecksumName): ChecksumKind => checksumKinds.find((k) => k.name === name)!
