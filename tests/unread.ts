import { readFileSync, writeFileSync } from 'node:fs'

/** Calls what is in a MOV by the name of a codec that is not read here: the last track whose entry has one of names. */
export function makeUnread(file: string, names: readonly string[] = ['in24', 'sowt', 'twos'], as = 'ac-3'): void {
  const bytes = readFileSync(file)
  // what follows the name of a sample entry are six noughts
  const entries = names.map((name) => bytes.lastIndexOf(`${name}${'\0'.repeat(6)}`, undefined, 'latin1'))
  const at = entries.find((n) => n > 0)
  if (at === undefined) throw new Error(`There is none of ${names.join()} in ${file}.`)
  bytes.write(as, at, 'latin1')
  writeFileSync(file, bytes)
}
