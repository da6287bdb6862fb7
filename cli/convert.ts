import { existsSync } from 'node:fs'
import { writeFile } from 'node:fs/promises'
import path from 'node:path'
import { defineCommand } from 'citty'
import { fail, ProblemError } from '../core/problem'
import { rateUnknown } from '../core/timeline/formats/rate'
import { formats, readInterchange, writeInterchange } from '../core/timeline/formats/registry'
import { readRate } from './arguments'
import { attempt } from './attempt'
import { readText } from './timeline'

export const convertCommand = defineCommand({
  meta: { name: 'convert', description: 'One interchange format into another; what is lost is said.' },
  args: {
    file: {
      type: 'positional',
      required: true,
      description: 'edit decision list, OpenTimelineIO, composition playlist, CSV or WebVTT',
    },
    to: { type: 'string', required: true, description: formats.map((f) => f.name).join(', ') },
    out: { type: 'string', description: 'file to write; without it, standard output' },
    rate: { type: 'string', description: 'frame rate of a list that does not say its own' },
    json: { type: 'boolean', description: 'problems as JSON' },
  },
  run: ({ args }) =>
    attempt(async () => {
      const to = args.to.toLowerCase()
      const read = readInterchange(
        await readText(args.file),
        path.basename(args.file),
        args.rate ? readRate(args.rate) : null,
      )
      const unknown = read.problems.find((p) => p.code === rateUnknown)
      if (unknown) throw new ProblemError(unknown)
      const { text, problems } = writeInterchange(read, to)
      if (args.out) {
        if (existsSync(args.out))
          fail(
            'file.exists',
            'There is a file of this name already.',
            args.out,
            'Choose another name; nothing is overwritten.',
          )
        await writeFile(args.out, text, { flag: 'wx' })
        if (args.json) {
          const made = { file: path.resolve(args.out), format: to, problems: [...read.problems, ...problems] }
          process.stdout.write(`${JSON.stringify(made, null, 2)}\n`)
        }
      } else process.stdout.write(text)
      for (const p of [...read.problems, ...problems]) process.stderr.write(`${p.where ?? ''}: ${p.message}\n`)
      return 0
    }),
})
