import { type Dispatch, type SetStateAction, useState } from 'react'

const kept = new Map<string, unknown>()

/** State that is there again when somebody comes back to the screen. */
export function useKept<T>(key: string, first: T): [T, Dispatch<SetStateAction<T>>] {
  const [value, setValue] = useState<T>(() => (kept.has(key) ? (kept.get(key) as T) : first))
  const keep: Dispatch<SetStateAction<T>> = (next) =>
    setValue((before) => {
      const after = next instanceof Function ? next(before) : next
      kept.set(key, after)
      return after
    })
  return [value, keep]
}
