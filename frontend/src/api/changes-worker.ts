/** Runs once for all tabs: tells each what comes in the stream of changes. */
import { openStream } from './changes'

const ports: MessagePort[] = []
const stream = openStream((told) => {
  for (const port of ports) port.postMessage(told)
})

const scope = self as unknown as { onconnect: (event: MessageEvent) => void }
scope.onconnect = ({ ports: [port] }) => {
  if (!port) return
  ports.push(port)
  // Its page may have been loaded before it could listen.
  if (stream.readyState === EventSource.OPEN) port.postMessage(null)
}
