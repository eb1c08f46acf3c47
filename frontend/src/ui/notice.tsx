import { Button } from './button'

type Props = { text: string; action?: string; onClose: () => void }

/** Something a person should know, until they put it away. */
export function Notice({ text, action = 'Close', onClose }: Props) {
  return (
    <div
      role="alert"
      className="flex items-center justify-between gap-3 border-b border-line bg-field px-4 py-2 text-over"
    >
      <p>{text}</p>
      <Button onClick={onClose}>{action}</Button>
    </div>
  )
}
