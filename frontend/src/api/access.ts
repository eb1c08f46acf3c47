/** Whether the server asks for its access token, whichever request it was that it said so to. */
import { useSyncExternalStore } from 'react'

import { Refused } from './client'

let isAsked = false
const listeners = new Set<() => void>()

/** Takes note of an answer that asks for the token. */
export function noteRefusal(error: unknown) {
  if (isAsked || !(error instanceof Refused) || error.code !== 'unauthorized') return
  isAsked = true
  for (const tell of listeners) tell()
}

export function useIsTokenAsked(): boolean {
  return useSyncExternalStore(
    (tell) => {
      listeners.add(tell)
      return () => listeners.delete(tell)
    },
    () => isAsked,
  )
}
