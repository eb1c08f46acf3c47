import { api, type Page } from '@/api/client'
import { useAct } from '@/api/queries'
import { Field } from '@/ui/fields/field'
import { aimOf, aimWords } from '@/words'

/** What the photos of a page aim for, but for those with an aim of their own. */
export function PageAimField({ page }: { page: Page }) {
  const act = useAct()
  const kept = page.default
  return (
    <Field
      label="Each photo"
      text={kept ? aimWords(kept) : ''}
      onEnter={async (text) => {
        const typed = text.trim() === '' ? null : await api.readAim(text)
        const { limit_bytes = null, likeness = null } = typed ?? {}
        const aim = typed && { limit_bytes, likeness, ...kept, ...aimOf(typed) }
        act.mutate(() => api.changePage(page.id, { default: aim }))
      }}
      placeholder="its own"
      className="w-40 text-right"
    />
  )
}
