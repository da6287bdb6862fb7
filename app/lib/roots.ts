import type { StorageRoot } from '../../contract/files'
import { useProblems } from '../stores/problems'
import { api } from './api'

/** The storage roots with what is free on them, asked for as a view opens. */
export function useRoots() {
  const roots = ref<readonly StorageRoot[]>([])
  onMounted(() =>
    useProblems().attempt(async () => {
      roots.value = (await api('GET files')).roots
    }),
  )
  return roots
}
