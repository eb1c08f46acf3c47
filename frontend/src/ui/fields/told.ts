/** Errors that are told where they belong, as beside a field, and so nowhere else. */
import { useSyncExternalStore } from 'react'

const told = new WeakSet<object>()
const watchers = new Set<() => void>()

/** Says that whoever calls this tells of an error. */
export function tellHere(error: unknown) {
  if (typeof error !== 'object' || error === null) return
  told.add(error)
  for (const watcher of watchers) watcher()
}

/** Whether an error is told elsewhere. */
export function useIsTold(error: Error | null): boolean {
  return useSyncExternalStore(
    (watcher) => {
      watchers.add(watcher)
      return () => watchers.delete(watcher)
    },
    () => error !== null && told.has(error),
  )
}
