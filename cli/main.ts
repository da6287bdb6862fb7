import { runCommand, type ArgsDef, type CommandDef } from 'citty'
import { fail, ProblemError } from '../core/problem'
import { version } from '../package.json'
import { analyseCommand } from './analyse'
import { attempt } from './attempt'
import { checkCommand } from './check'
import { convertCommand } from './convert'
import { exportCommand } from './export'
import { helpText } from './help'
import { logCommand } from './log'
import { joinCommand } from './join'
import { nearest } from './near'
import { probeCommand } from './probe'
import { splitCommand } from './split'
import { endQuietlyWhenCutOff } from './terminal'
import { timelineCommand } from './timeline'
import { checkWords } from './words'

const commands = {
  probe: probeCommand,
  check: checkCommand,
  export: exportCommand,
  analyse: analyseCommand,
  timeline: timelineCommand,
  split: splitCommand,
  convert: convertCommand,
  join: joinCommand,
  log: logCommand,
} as unknown as Record<string, CommandDef<ArgsDef>>

endQuietlyWhenCutOff()
const [name = '', ...words] = process.argv.slice(2)
await attempt(async () => {
  if (name === '--version' || name === 'version') {
    process.stdout.write(`Velvet Crane ${version}\n`)
    return 0
  }
  const command = commands[name]
  if (!command) {
    const near = nearest(name, Object.keys(commands))
    fail(
      'usage',
      `There is no command “${name}”.${near ? ` Did you mean ${near}?` : ''}`,
      undefined,
      'See ./velvet help.',
    )
  }
  if (words.includes('--help') || words.includes('-h')) {
    process.stdout.write(helpText(name, command))
    return 0
  }
  checkWords(name, command, words)
  try {
    await runCommand(command, { rawArgs: words })
  } catch (e) {
    // what is found wrong with the words of a call is a problem like any other: exit code 2, not 1
    if ((e as Error).name !== 'CLIError') throw e
    throw new ProblemError({ code: 'usage', message: (e as Error).message, fix: `See ./velvet ${name} --help.` })
  }
  return Number(process.exitCode ?? 0)
})
