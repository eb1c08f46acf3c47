import { useEffect, useRef, useState } from 'react'

/** How long the keyboard rests before its last value is sent. */
const REST_MS = 350

type Draft<T> = {
  value: T
  /** Shows a value on the way. */
  show: (value: T) => void
  /** Sends a value; from the keyboard, once no other follows. */
  send: (value: T) => void
}

/** A kept value that is being changed by hand: shown at once, sent once the hand rests. */
export function useDraft<T>(kept: T, keep: (value: T) => Promise<unknown>): Draft<T> {
  const [draft, setDraft] = useState<{ value: T } | null>(null)
  const waiting = useRef<{ timer: number; run: () => void } | null>(null)
  useEffect(() => () => waiting.current?.run(), [])

  const send = (value: T) => {
    const mine = { value }
    setDraft(mine)
    window.clearTimeout(waiting.current?.timer)
    const run = () => {
      window.clearTimeout(timer)
      waiting.current = null
      const forget = () => setDraft((now) => (now === mine ? null : now))
      keep(value).then(forget, forget)
    }
    const timer = window.setTimeout(run, REST_MS)
    waiting.current = { timer, run }
  }
  // A value that is being sent may be shown once more: it is still the one that is forgotten then. One
  // that is back where it was is no draft, unless another was sent meanwhile.
  const show = (value: T) =>
    setDraft((now) => {
      if (now?.value === value) return now
      return Object.is(value, kept) && !waiting.current ? null : { value }
    })
  return { value: draft ? draft.value : kept, show, send }
}
