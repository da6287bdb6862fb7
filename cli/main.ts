import { defineCommand, runMain } from 'citty'
import { checkCommand } from './check'
import { exportCommand } from './export'
import { probeCommand } from './probe'

const main = defineCommand({
  meta: { name: 'velvet', description: 'Splits an edited timeline into named regions and proves every file as written.' },
  subCommands: { probe: probeCommand, check: checkCommand, export: exportCommand },
})

await runMain(main)
