import path from 'node:path'
import { Engine } from '../../engine/session'

let opened: Promise<Engine> | undefined

/** The engine of this server process, opened once from what the launcher says. */
export function useEngine(): Promise<Engine> {
  opened ??= Engine.open({
    watch: true,
    data: path.resolve(process.env.VELVET_DATA ?? '.velvet/data'),
    roots: JSON.parse(process.env.VELVET_STORAGE ?? '["."]') as string[],
  })
  return opened
}
