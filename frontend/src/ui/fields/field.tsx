import { type FormEvent, type ReactNode, useState } from 'react'

export const FIELD =
  'rounded-sm border border-line bg-field px-2 py-1 hover:border-ink aria-invalid:border-over disabled:opacity-50'

type FieldProps = {
  label: string
  text: string
  read: (text: string) => number | string | null
  problem: string
  onEnter: (text: string) => void
  className?: string
  /** The label is for those who do not see where the field stands. */
  isLabelHidden?: boolean
  labelClass?: string
  placeholder?: string
  after?: ReactNode
}

/** A draft, and whether it was sent; a sent one stands until the kept text changes. */
type Draft = { words: string; isSent: boolean }

/** A value in words, sent on Enter or when the field is left; Escape takes the draft back. */
export function Field(props: FieldProps) {
  const { label, text, read, problem, onEnter, className, isLabelHidden, labelClass, placeholder, after } =
    props
  const [draft, setDraft] = useState<Draft | null>(null)
  const [seen, setSeen] = useState(text)
  if (text !== seen) {
    setSeen(text)
    if (draft?.isSent) setDraft(null)
  }
  const words = draft?.words ?? text
  const isValid = read(words) !== null
  const send = (event?: FormEvent) => {
    event?.preventDefault()
    if (!draft || draft.isSent || !isValid) return
    setDraft(words === text ? null : { words, isSent: true })
    if (words !== text) onEnter(words)
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
            aria-invalid={!isValid}
            onChange={(event) => setDraft({ words: event.target.value, isSent: false })}
            onKeyDown={(event) => event.key === 'Escape' && setDraft(null)}
          />
        </label>
        {after}
      </div>
      {!isValid && (
        <p role="status" className="mt-1 text-over">
          {problem}
        </p>
      )}
    </form>
  )
}
