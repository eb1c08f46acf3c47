import { Button } from './button'

/** Something a person should know, until they put it away. */
export function Notice({ text, onClose }: { text: string; onClose: () => void }) {
  return (
    <div
      role="alert"
      className="flex items-center justify-between gap-3 border-b border-line bg-field px-4 py-2 text-over"
    >
      <p>{text}</p>
      <Button onClick={onClose}>Close</Button>
    </div>
  )
}
