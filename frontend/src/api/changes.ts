/** The stream of changes, which all tabs of a browser share: it opens few connections to a server. */
import { urls, type Wire } from './client'

export type Changes = Wire['ChangesResponse']
/** What a tab is told: what changed, or null where it may have missed something. */
export type Told = Changes | null

/** Opens the stream itself. */
export function openStream(tell: (told: Told) => void): EventSource {
  const stream = new EventSource(urls.changes)
  stream.onopen = () => tell(null)
  stream.onmessage = (message: MessageEvent<string>) => tell(JSON.parse(message.data) as Changes)
  return stream
}

/** Listens to the stream that all tabs share, or to its own where the browser shares nothing. */
export function listen(tell: (told: Told) => void): () => void {
  if (!('SharedWorker' in window)) {
    const stream = openStream(tell)
    return () => stream.close()
  }
  const worker = new SharedWorker(new URL('./changes-worker.ts', import.meta.url), {
    type: 'module',
    name: 'changes',
  })
  worker.port.onmessage = (message: MessageEvent<Told>) => tell(message.data)
  return () => worker.port.close()
}
