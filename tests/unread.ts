import { readFileSync, writeFileSync } from 'node:fs'

/** Calls the PCM of a MOV's last track by the name of a codec that is not read here. */
export function makeUnread(file: string): void {
  const bytes = readFileSync(file)
  // what follows the name of a sample entry are six noughts
  const entries = ['in24', 'sowt', 'twos'].map((name) =>
    bytes.lastIndexOf(`${name}${'\0'.repeat(6)}`, undefined, 'latin1'),
  )
  const at = entries.find((n) => n > 0)
  if (at === undefined) throw new Error(`There is no PCM in ${file}.`)
  bytes.write('ac-3', at, 'latin1')
  writeFileSync(file, bytes)
}
