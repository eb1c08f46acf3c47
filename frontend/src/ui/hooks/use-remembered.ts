import { useState } from 'react'

/** A choice of how things look that this browser remembers; it is lost where nothing can be stored. */
export function useRemembered<T extends string>(key: string, options: readonly T[], first: T) {
  const [value, setValue] = useState<T>(() => {
    const kept = stored(key)
    return options.find((option) => option === kept) ?? first
  })
  const choose = (to: T) => {
    setValue(to)
    try {
      localStorage.setItem(key, to)
    } catch {
      // it holds until the page is left
    }
  }
  return [value, choose] as const
}

function stored(key: string): string | null {
  try {
    return localStorage.getItem(key)
  } catch {
    return null
  }
}
