/** The stream of changes itself. */
import type { Wire } from '../client'

export type Changes = Wire['ChangesResponse']
/** What a tab is told: what changed, that it may have missed something, or that nothing comes. */
export type Told = Changes | 'again' | 'lost'

const FIRST_WAIT_MS = 500
const LONGEST_WAIT_MS = 15_000

export type Stream = { isOpen: () => boolean; tryNow: () => void; close: () => void }

/**
 * Keeps a stream open at an address. A browser gives one up for good after an answer that is no
 * stream, so it is opened here again, after longer and longer waits.
 */
export function openStream(address: string, tell: (told: Told) => void): Stream {
  let source: EventSource | null = null
  let timer: ReturnType<typeof setTimeout> | undefined
  let wait_ms = FIRST_WAIT_MS
  const open = () => {
    clearTimeout(timer)
    const mine = new EventSource(address)
    source = mine
    mine.onopen = () => {
      wait_ms = FIRST_WAIT_MS
      tell('again')
    }
    mine.onmessage = (message: MessageEvent<string>) => tell(JSON.parse(message.data) as Changes)
    mine.onerror = () => {
      mine.close()
      if (source !== mine) return
      tell('lost')
      timer = setTimeout(open, wait_ms)
      wait_ms = Math.min(2 * wait_ms, LONGEST_WAIT_MS)
    }
  }
  const isOpen = () => source?.readyState === EventSource.OPEN
  const tryNow = () => {
    if (source?.readyState === EventSource.CLOSED) open()
  }
  const close = () => {
    clearTimeout(timer)
    source?.close()
    source = null
  }
  open()
  return { isOpen, tryNow, close }
}
