import { isDelivered, type DeliverableSummary } from '../../contract/deliverables'
import { partText } from '../../core/deliverable/identity'

/** What became of a deliverable, before the name of its file: whether it has changed since, and what. */
export function becameText(d: DeliverableSummary): string {
  if (!d.became) return d.underWay === null ? 'never delivered' : `being made in ${d.underWay}`
  return isDelivered(d) ? 'unchanged since delivered as' : `${changedText(d)} changed since`
}

const changedText = (d: DeliverableSummary): string => d.became?.changed.map(partText).join(', ') ?? ''

/** The same in a few words, where room is short. */
export function becameShort(d: DeliverableSummary): string {
  const count = d.became?.changed.length ?? 0
  if (count === 0) return 'delivered'
  return count > 2 ? `${count} things changed` : `${changedText(d)} changed`
}
