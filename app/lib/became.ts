import { isDelivered, type DeliverableSummary } from '../../contract/deliverables'
import { partText } from '../../core/deliverable/identity'

/** What became of a deliverable, before the name of its file: whether it has changed since, and what. */
export function becameText(d: DeliverableSummary): string {
  if (!d.became) return 'never delivered'
  return isDelivered(d) ? 'unchanged since delivered as' : `${changedText(d)} changed since`
}

/** What has changed since it was delivered, in words. */
export const changedText = (d: DeliverableSummary): string => d.became?.changed.map(partText).join(', ') ?? ''
