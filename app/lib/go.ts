import { useDesk } from '../stores/desk'
import { useWorld } from '../stores/world'

/** Shows a frame of a timeline on the desk. */
export async function showOnDesk(timelineId: string, frame: number): Promise<void> {
  useWorld().choose(timelineId)
  await navigateTo('/desk')
  await nextTick()
  useDesk().go(frame)
}
