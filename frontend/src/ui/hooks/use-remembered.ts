import { useState } from 'react'

import { store, stored } from '@/ui/stored'

/** A choice of how things look that this browser remembers. */
export function useRemembered<T extends string>(key: string, options: readonly T[], first: T) {
  const [value, setValue] = useState<T>(() => {
    const kept = stored(key)
    return options.find((option) => option === kept) ?? first
  })
  const choose = (to: T) => {
    setValue(to)
    store(key, to)
  }
  return [value, choose] as const
}
