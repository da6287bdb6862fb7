import { mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, describe, expect, it } from 'vitest'
import { filesOf } from '../../../core/files/fileset'
import { makeRate } from '../../../core/time/rate'
import { scratchFolder } from '../../../tests/fixtures'
import type { DeliverableStep } from '../context'
import { unitSummer } from './looks'
import { checkStills, type MadeStills } from './stillfiles'

const { folder, remove } = scratchFolder()
afterAll(remove)
const name = 'Fog.[0010-0019].dpx'

/** Ten stills as two steps wrote them, and the step that is to prove them. */
async function written(label: string) {
  const at = path.join(folder, label)
  mkdirSync(at)
  const sum = await unitSummer()
  const files = filesOf(path.join(at, name))!
  const sums = files.map((file, i) => {
    const bytes = Buffer.from(`still ${i}`)
    writeFileSync(file, bytes)
    return sum(bytes)
  })
  const made = (from: number, to: number): MadeStills => ({ file: name, sums: sums.slice(from, to).join('') })
  const step = {
    progress: () => undefined,
    // as they come back, whichever was done first
    needed: new Map([
      ['segment-1', made(6, 10)],
      ['segment-0', made(0, 6)],
    ]),
    item: {
      outlet: { id: 'fog', name: 'Fog' },
      ...{ target: { path: `Fog/${name}` }, output: { start: { frames: 10 } } },
      ...{ timeline: { rate: makeRate(25), dropFrame: false }, steps: [{ key: 'segment-0' }, { key: 'segment-1' }] },
    },
  } as unknown as DeliverableStep
  return { at, files, step, check: () => checkStills(step, path.join(at, name)) }
}

describe('stills before they get a name', () => {
  it('are read back, and listed with their sums', async () => {
    const { at, check } = await written('whole')
    await check()
    expect(readdirSync(at)).toHaveLength(11)
    const lines = readFileSync(path.join(at, 'Fog.sha256'), 'utf8').split('\n')
    expect(lines).toHaveLength(11)
    expect(lines[3]).toMatch(/^[0-9a-f]{64} {2}Fog\.0013\.dpx$/)
    // a proof that is taken up by another worker finds the list there
    await check()
  })
  it.each([
    ['missing', (files: readonly string[]) => rmSync(files[4]!), { code: 'prove.stills' }],
    ['one too many', (files: readonly string[]) => writeFileSync(`${files[9]!}.1`, 'x'), { code: 'prove.stills' }],
    [
      'another in its place',
      (files: readonly string[]) => {
        rmSync(files[4]!)
        writeFileSync(files[0]!.replace('0010', '0020'), 'x')
      },
      { code: 'prove.still', message: expect.stringContaining('Fog.0014.dpx is missing') as string },
    ],
    [
      'doubled',
      (files: readonly string[]) => writeFileSync(files[5]!, readFileSync(files[4]!)),
      { code: 'prove.still', where: expect.stringContaining('00:00:00:15') as string },
    ],
    ['cut off', (files: readonly string[]) => writeFileSync(files[9]!, 'stil'), { code: 'prove.still' }],
  ])('are found %s', async (label, spoil, problem) => {
    const { files, check } = await written(label)
    spoil(files)
    await expect(check()).rejects.toMatchObject({ problem })
  })
  it('are as many as steps have written', async () => {
    const { step, check } = await written('short')
    ;(step.needed as Map<string, unknown>).delete('segment-1')
    await expect(check()).rejects.toMatchObject({ problem: { code: 'prove.stills' } })
  })
})
