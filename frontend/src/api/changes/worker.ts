/** Runs once for all tabs: tells each what comes in the stream of changes, whose address is its name. */
import { openStream } from './stream'

const ports: MessagePort[] = []
const scope = self as unknown as { name: string; onconnect: (event: MessageEvent) => void }
const stream = openStream(scope.name, (told) => {
  for (const port of ports) port.postMessage(told)
})

scope.onconnect = ({ ports: [port] }) => {
  if (!port) return
  ports.push(port)
  // Its page may have been loaded before it could listen, and knows that the server answers.
  if (stream.isOpen()) port.postMessage('again')
  else stream.tryNow()
}
