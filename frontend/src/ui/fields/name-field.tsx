import { type FormEvent, useState } from 'react'

import { FIELD } from './field'

type Props = { label: string; name: string; onDone: (name: string | null) => void }

/** A name being written: Enter or leaving keeps it, Escape keeps the old one. */
export function NameField({ label, name, onDone }: Props) {
  const [draft, setDraft] = useState(name)
  const kept = draft.trim() && draft.trim() !== name ? draft.trim() : null
  const send = (event?: FormEvent) => {
    event?.preventDefault()
    onDone(kept)
  }
  return (
    <form onSubmit={send} onBlur={() => send()}>
      <input
        aria-label={label}
        className={`${FIELD} w-full font-semibold`}
        value={draft}
        maxLength={120}
        ref={(input) => input?.focus()}
        onFocus={(event) => event.target.select()}
        onChange={(event) => setDraft(event.target.value)}
        onKeyDown={(event) => {
          event.stopPropagation()
          if (event.key === 'Escape') onDone(null)
        }}
      />
    </form>
  )
}
