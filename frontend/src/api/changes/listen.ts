/** The stream of changes, which all tabs of a browser share: it opens few connections to a server. */
import { urls } from '../urls'
import { openStream, type Told } from './stream'

/** Listens to the stream that all tabs share, or to its own where the browser shares nothing. */
export function listen(tell: (told: Told) => void): () => void {
  if (!('SharedWorker' in window)) {
    const stream = openStream(urls.changes, tell)
    return () => stream.close()
  }
  const worker = new SharedWorker(new URL('./worker.ts', import.meta.url), {
    type: 'module',
    name: urls.changes,
  })
  worker.port.onmessage = (message: MessageEvent<Told>) => tell(message.data)
  return () => worker.port.close()
}
