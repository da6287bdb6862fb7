import { defineCommand, runCommand, runMain } from 'citty'
import { ProblemError } from '../core/problem'
import { attempt } from './attempt'
import { checkCommand } from './check'
import { exportCommand } from './export'
import { convertCommand } from './convert'
import { analyseCommand } from './analyse'
import { probeCommand } from './probe'
import { timelineCommand } from './timeline'

const main = defineCommand({
  meta: {
    name: 'velvet',
    description: 'Splits an edited timeline into named regions and proves every file as written.',
  },
  subCommands: {
    probe: probeCommand,
    check: checkCommand,
    export: exportCommand,
    analyse: analyseCommand,
    timeline: timelineCommand,
    convert: convertCommand,
  },
})

const args = process.argv.slice(2)
if (args.includes('--help') || args.includes('-h')) await runMain(main)
else {
  // what citty finds wrong with the words of a call is a problem like any other: exit code 2, not 1
  await attempt(async () => {
    try {
      await runCommand(main, { rawArgs: args })
    } catch (e) {
      if ((e as Error).name !== 'CLIError') throw e
      throw new ProblemError({ code: 'usage', message: (e as Error).message, fix: 'See ./velvet help.' })
    }
    return Number(process.exitCode ?? 0)
  })
}
