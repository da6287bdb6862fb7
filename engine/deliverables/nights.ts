import { setTimeout as sleep } from 'node:timers/promises'
import type { Situation } from '../../core/deliverable/draft'
import type { JudgedDraft } from '../../core/deliverable/judged'
import { keyText } from '../../core/deliverable/outlet'
import type { Runs } from '../runs/runs'
import type { Timelines } from '../timelines/timelines'
import { machineAbilities } from '../worker/codecs'
import type { Deliverables } from './deliverables'
import type { Outlets } from './outlets'

/** From the stations' present state to a night run. */
export class Nights {
  constructor(
    private readonly timelines: Timelines,
    private readonly outlets: Outlets,
    private readonly deliverables: Deliverables,
    private readonly runs: Runs,
  ) {}

  /** Everything that deliverables follow from, as it is now. */
  async situation(): Promise<Situation> {
    const [timelines, outlets, specs, choices, abilities] = await Promise.all([
      this.timelines.list(),
      this.outlets.list(),
      this.outlets.specs(),
      this.outlets.choices(),
      machineAbilities(),
    ])
    return { timelines, outlets, specs, choices, abilities }
  }

  /** All deliverables as they are now, judged. */
  async judged(): Promise<JudgedDraft[]> {
    return this.deliverables.workOut(await this.situation())
  }

  /** Freezes all cleared deliverables (or those of `keys`) into a run and starts it. */
  async start(name: string, workers: number, keys: readonly string[] | null = null): Promise<string> {
    const situation = await this.situation()
    let all = await this.deliverables.workOut(situation)
    // sound that is being measured right now decides whether a file is cleared: it is worth a short wait
    for (let i = 0; i < 100 && all.some((d) => d.soundPending); i++) {
      await sleep(200)
      all = await this.deliverables.workOut(situation)
    }
    const chosen = all.filter((d) => d.cleared && (!keys || keys.includes(keyText(d.draft.key))))
    return this.runs.start(this.runs.freeze(name, workers, chosen))
  }
}
