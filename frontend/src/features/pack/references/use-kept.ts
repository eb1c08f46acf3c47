import { useState } from 'react'

const kept = new Map<string, unknown>()

/** State that is there again when somebody comes back to the screen. */
export function useKept<T>(key: string, first: T) {
  const read = () => (kept.has(key) ? (kept.get(key) as T) : first)
  const [value, setValue] = useState(read)
  const keep = (next: (before: T) => T) => {
    kept.set(key, next(read()))
    setValue(read)
  }
  return [value, keep] as const
}
