import { useState } from 'react'

import { api, type DeliveredPhoto } from '@/api/client'
import { useAct } from '@/api/queries'
import { FIELD } from '@/ui/fields/field'
import { Hint } from '@/ui/hint'

type Props = { photo: DeliveredPhoto }

/** What a photo shows, in words for those who do not see it: written by a person or not at all. */
export function AltText({ photo }: Props) {
  const act = useAct()
  const [draft, setDraft] = useState<string | null>(null)
  const save = (alt_text: string | null) => {
    setDraft(null)
    if (alt_text !== photo.alt_text) act.mutate(() => api.changeCode([photo.id], { alt_text }))
  }
  if (draft === null) {
    return (
      <Hint words={photo.alt_text ?? 'What the photo shows, for those who do not see it'}>
        <button
          type="button"
          className={`line-clamp-2 text-left text-tiny leading-tight hover:underline ${photo.alt_text === null ? 'font-semibold text-ink' : 'text-soft'}`}
          onClick={() => setDraft(photo.alt_text ?? '')}
        >
          {altWords(photo.alt_text)}
        </button>
      </Hint>
    )
  }
  return (
    <div className="mt-1 space-y-1">
      <textarea
        aria-label={`Alternative text of ${photo.name}`}
        rows={3}
        maxLength={1000}
        className={`${FIELD} w-full text-tiny leading-tight`}
        value={draft}
        ref={(field) => field?.focus()}
        onChange={(event) => setDraft(event.target.value)}
        onBlur={() => save(draft.trim() || photo.alt_text)}
        onKeyDown={(event) => {
          event.stopPropagation()
          if (event.key === 'Escape') setDraft(null)
          if (event.key === 'Enter' && !event.shiftKey) {
            event.preventDefault()
            save(draft.trim() || photo.alt_text)
          }
        }}
      />
      <button
        type="button"
        className="text-tiny text-navy hover:underline"
        onMouseDown={(event) => event.preventDefault()}
        onClick={() => save('')}
      >
        It is decoration, there is nothing to tell
      </button>
    </div>
  )
}

function altWords(text: string | null): string {
  if (text === null) return 'No alternative text yet'
  return text === '' ? 'Decoration, no alternative text' : `Alternative text: “${text}”`
}
