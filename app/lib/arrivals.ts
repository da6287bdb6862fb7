import { reactive, ref } from 'vue'
import { isChapterFile, isTimelineFile } from '../../core/files/kinds'
import type { FilePath } from '../../core/media/filepath'
import { ProblemError } from '../../core/problem'
import { useTimelines } from '../stores/timelines'
import { api, upload } from './api'

/** A file on its way from somebody's machine. */
interface Coming {
  readonly name: string
  share: number
  state: 'coming' | 'reading' | 'failed'
  problem: ProblemError['problem'] | null
  abort: () => void
}

/** Brings in what lies in storage, and takes it in hand. */
export async function bringIn(media: FilePath, cuts?: FilePath) {
  const timelines = useTimelines()
  const t = await api('POST timelines', { body: { media, ...(cuts ? { cuts } : {}) } })
  await timelines.load()
  timelines.choose(t.id)
}

/** Files as they are dropped, uploaded and brought in, with how far each is and what went wrong. */
export function useArrivals() {
  const timelines = useTimelines()
  const coming = ref<Coming[]>([])

  /** A list goes with the media of its name; on its own it is a timeline of many sources. */
  async function take(files: readonly File[]) {
    const arrived: { file: File; place: FilePath; c: Coming }[] = []
    for (const file of files) {
      const c = reactive<Coming>({ name: file.name, share: 0, state: 'coming', problem: null, abort: () => undefined })
      coming.value.push(c)
      const job = upload(file, (s) => (c.share = s))
      c.abort = job.abort
      try {
        arrived.push({ file, place: await job.done, c })
        c.state = 'reading'
      } catch (e) {
        c.state = 'failed'
        c.problem = e instanceof ProblemError ? e.problem : { code: 'upload.failed', message: String(e) }
      }
    }
    const isList = (n: string) => isTimelineFile(n) || isChapterFile(n)
    const stem = (n: string) => n.replace(/\.[^.]+$/, '').toLowerCase()
    const media = arrived.filter((a) => !isList(a.file.name))
    const lists = arrived.filter((a) => isList(a.file.name))
    const settle = async (a: (typeof arrived)[number], action: () => Promise<unknown>) => {
      try {
        await action()
        coming.value = coming.value.filter((c) => c !== a.c)
      } catch (e) {
        a.c.state = 'failed'
        a.c.problem = e instanceof ProblemError ? e.problem : { code: 'internal.error', message: String(e) }
      }
    }
    for (const m of media) {
      const list = lists.find((l) => stem(l.file.name) === stem(m.file.name))
      if (list) lists.splice(lists.indexOf(list), 1)
      await settle(m, () => bringIn(m.place, list?.place))
      if (list) coming.value = coming.value.filter((c) => c !== list.c)
    }
    // a list on its own is a timeline of many sources; chapters go with the timeline of their name, or the one in hand
    for (const l of lists) {
      await settle(l, async () => {
        if (!isChapterFile(l.file.name)) return bringIn(l.place)
        const t =
          timelines.all.find((x) => stem(x.file.path.split('/').at(-1)!) === stem(l.file.name)) ?? timelines.current
        if (!t)
          throw new ProblemError({
            code: 'vtt.no-timeline',
            message: 'Chapters need a timeline to stand on.',
            where: l.file.name,
            fix: 'Bring in the timeline first.',
          })
        await timelines.patch(t.id, { cuts: l.place })
      })
    }
  }

  return { coming, take }
}
