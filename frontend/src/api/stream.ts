/** The stream of changes itself. */
import type { Wire } from './client'

export type Changes = Wire['ChangesResponse']
/** What a tab is told: what changed, or null where it may have missed something. */
export type Told = Changes | null

/** Opens the stream at an address. */
export function openStream(address: string, tell: (told: Told) => void): EventSource {
  const stream = new EventSource(address)
  stream.onopen = () => tell(null)
  stream.onmessage = (message: MessageEvent<string>) => tell(JSON.parse(message.data) as Changes)
  return stream
}
