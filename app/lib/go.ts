import { useEditor } from '../stores/editor'
import { useTimelines } from '../stores/timelines'

/** Shows a frame of a timeline on the desk. */
export async function showOnDesk(timelineId: string, frame: number): Promise<void> {
  useTimelines().choose(timelineId)
  await navigateTo('/desk')
  await nextTick()
  useEditor().go(frame)
}
