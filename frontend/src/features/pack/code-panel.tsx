import { useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'

import { api, type Delivery, type DeliveredPhoto } from '@/api/client'
import { useAct } from '@/api/queries'
import { Button } from '@/ui/button'
import { Field } from '@/ui/fields/field'
import { Segments } from '@/ui/fields/segments'
import { UNLESS_TYPING } from '@/ui/keys'
import { countWords } from '@/words'

type Kind = 'html' | 'css' | 'markdown'
const KINDS = [
  { value: 'html', text: 'HTML' },
  { value: 'css', text: 'CSS' },
  { value: 'markdown', text: 'Markdown' },
] as const

type Props = { delivery: Delivery; photo: DeliveredPhoto | undefined }

/** Page code of the chosen photo, ready to copy. */
export function CodePanel({ delivery, photo }: Props) {
  const act = useAct()
  const [kind, setKind] = useState<Kind>('html')
  const [copied, setCopied] = useState('')
  const copy = (photos: DeliveredPhoto[]) => {
    const code = photos.flatMap((each) => (each.code ? [each.code[kind]] : [])).join('\n\n')
    const what = photos.length === 1 ? 'Copied.' : `Copied for ${photos.length} photos.`
    void navigator.clipboard.writeText(code).then(
      () => setCopied(what),
      () => setCopied('The browser does not let it be copied.'),
    )
  }
  useHotkeys('c', () => photo && copy([photo]), UNLESS_TYPING)
  return (
    <section aria-label="Page code" className="flex min-h-0 flex-col border border-line bg-sheet">
      <div className="flex items-center justify-between gap-2 border-b border-line px-3 py-1.5">
        <h3 className="min-w-0 truncate">
          <b className="font-semibold">Page code</b>
          {photo && <span className="text-soft"> {photo.name}</span>}
        </h3>
        <Segments
          label="Kind of page code"
          value={kind}
          options={KINDS}
          onChange={(to) => {
            setKind(to)
            setCopied('')
          }}
        />
      </div>
      <textarea
        readOnly
        spellCheck={false}
        aria-label={`Page code of ${photo?.name ?? 'nothing'}`}
        className="num block min-h-24 w-full grow resize-none overflow-auto bg-field px-3 py-2 text-small leading-[1.5] focus-visible:-outline-offset-2"
        value={photo?.code?.[kind] ?? whyNone(photo)}
      />
      <div className="flex items-center gap-2 border-t border-line px-3 py-1.5">
        <Field
          label="Path"
          text={delivery.path_prefix}
          placeholder="/img/"
          read={(text) => text}
          problem=""
          onEnter={(text) =>
            act.mutate(() => api.changePage(delivery.page_id, { path_prefix: text }))
          }
          className="w-24 py-0.5 text-small"
        />
        <Button
          look="small"
          hint="The code of this photo (C)"
          disabled={!photo?.code}
          onClick={() => photo && copy([photo])}
        >
          Copy
        </Button>
        <Button
          look="small"
          hint="The code of all photos of the page"
          disabled={!photo || delivery.running > 0}
          onClick={() => copy(delivery.photos)}
        >
          Copy all
        </Button>
        <span role="status" className="truncate text-small text-soft">
          {copied}
        </span>
      </div>
    </section>
  )
}

function whyNone(photo: DeliveredPhoto | undefined): string {
  if (!photo) return 'Nothing is taken yet.'
  const being = photo.running === 1 ? 'is' : 'are'
  return `${countWords(photo.running, 'file')} of this photo ${being} still being made. The page code stands here once all are there.`
}
