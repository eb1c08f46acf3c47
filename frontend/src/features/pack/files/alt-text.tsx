import { useState } from 'react'

import { api, type DeliveredPhoto } from '@/api/client'
import { useAct } from '@/api/queries'
import { Button } from '@/ui/button'
import { FIELD } from '@/ui/fields/field'

type Props = { photo: DeliveredPhoto }

/** What a photo shows, in words for those who do not see it: written by a person or not at all. */
export function AltText({ photo }: Props) {
  const act = useAct()
  const [draft, setDraft] = useState<string | null>(null)
  const save = (alt_text: string | null) => {
    setDraft(null)
    if (alt_text !== photo.alt_text) act.mutate(() => api.changeCode([photo.id], { alt_text }))
  }
  const saveDraft = () => draft !== null && save(draft.trim() || photo.alt_text)
  return (
    <div className="flex items-end gap-2">
      <label className="min-w-0 grow">
        <span className="mb-0.5 block text-soft">Alternative text</span>
        <textarea
          rows={2}
          maxLength={1000}
          aria-label={`Alternative text of ${photo.name}`}
          placeholder={
            photo.alt_text === ''
              ? altWords('')
              : 'What the photo shows, for those who do not see it'
          }
          className={`${FIELD} block w-full text-small`}
          value={draft ?? photo.alt_text ?? ''}
          onChange={(event) => setDraft(event.target.value)}
          onBlur={saveDraft}
          onKeyDown={(event) => {
            event.stopPropagation()
            if (event.key === 'Escape') setDraft(null)
            if (event.key === 'Enter' && !event.shiftKey) {
              event.preventDefault()
              saveDraft()
            }
          }}
        />
      </label>
      <Button
        look="quiet"
        className="shrink-0 text-small"
        hint="There is nothing to tell: it is read over"
        disabled={photo.alt_text === ''}
        onClick={() => save('')}
      >
        It is decoration
      </Button>
    </div>
  )
}

/** An alternative text, or that there is none, in words. */
export function altWords(text: string | null): string {
  if (text === null) return 'No alternative text yet'
  return text === '' ? 'Decoration, no alternative text' : text
}
