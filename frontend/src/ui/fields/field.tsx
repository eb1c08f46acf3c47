import { type FormEvent, type ReactNode, useId, useState } from 'react'

import { tellHere } from './told'

export const FIELD =
  'field rounded-sm border border-edge bg-field hover:border-ink aria-invalid:border-over disabled:opacity-50'

type FieldProps = {
  label: string
  text: string
  /** Null for what cannot be sent; what only the server reads is sent as it is. */
  read?: (text: string) => number | string | null
  problem?: string
  /** Sends the text; where that is refused, the field says why. */
  onEnter: (text: string) => unknown
  className?: string
  /** The label is for those who do not see where the field stands. */
  isLabelHidden?: boolean
  labelClass?: string
  placeholder?: string
  after?: ReactNode
}

/** A draft, and whether it was sent; a sent one stands until the kept text changes, or it is refused. */
type Draft = { words: string; isSent: boolean; refusal?: string }

/** A value in words, sent on Enter or when the field is left; Escape takes the draft back. */
export function Field(props: FieldProps) {
  const { label, text, read, onEnter, className, isLabelHidden, labelClass, placeholder, after } =
    props
  const problemId = useId()
  const [draft, setDraft] = useState<Draft | null>(null)
  const [seen, setSeen] = useState(text)
  if (text !== seen) {
    setSeen(text)
    if (draft?.isSent) setDraft(null)
  }
  const words = draft?.words ?? text
  const isReadable = !read || read(words) !== null
  const problem = isReadable ? draft?.refusal : props.problem
  const send = (event?: FormEvent) => {
    event?.preventDefault()
    if (!draft || draft.isSent || draft.refusal || !isReadable) return
    if (words === text) {
      setDraft(null)
      return
    }
    const sent = { words, isSent: true }
    setDraft(sent)
    Promise.resolve(onEnter(words)).catch((error: unknown) => {
      tellHere(error)
      const refusal = error instanceof Error ? error.message : String(error)
      setDraft((now) => (now === sent ? { words, isSent: false, refusal } : now))
    })
  }
  return (
    <form onSubmit={send} onBlur={() => send()}>
      <div className="flex items-center justify-between gap-2">
        <label className="flex items-center gap-2">
          <span className={isLabelHidden ? 'sr-only' : (labelClass ?? 'text-soft')}>{label}</span>
          <input
            className={`num ${FIELD} ${className ?? 'w-20'}`}
            value={words}
            placeholder={placeholder}
            aria-invalid={problem !== undefined}
            aria-describedby={problem === undefined ? undefined : problemId}
            onChange={(event) => setDraft({ words: event.target.value, isSent: false })}
            onKeyDown={(event) => event.key === 'Escape' && setDraft(null)}
          />
        </label>
        {after}
      </div>
      {problem && (
        <p id={problemId} role="status" className="mt-1 text-over">
          {problem}
        </p>
      )}
    </form>
  )
}
