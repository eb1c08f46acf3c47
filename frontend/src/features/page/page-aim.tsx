import { api, type Page } from '@/api/client'
import { useAct } from '@/api/queries'
import { Field } from '@/ui/fields/field'
import { aimOf, aimWords } from '@/words'

const FIRST_LIMIT_BYTES = 200_000

/** What the photos of a page aim for, but for those with an aim of their own. */
export function PageAimField({ page }: { page: Page }) {
  const act = useAct()
  const kept = page.default
  return (
    <Field
      label="Each photo"
      text={kept ? aimWords(kept) : ''}
      onEnter={async (text) => {
        const aim = text.trim() === '' ? null : aimOf(await api.readAim(text))
        const limit_bytes = kept?.limit_bytes ?? FIRST_LIMIT_BYTES
        act.mutate(() => api.changePage(page.id, { default: aim && { limit_bytes, ...aim } }))
      }}
      placeholder="its own"
      className="w-24 text-right"
    />
  )
}
