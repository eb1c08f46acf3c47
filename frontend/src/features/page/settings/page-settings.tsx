import { api, type Page } from '@/api/client'
import { useAct } from '@/api/queries'

import { SettingsFields } from './fields'

/** What every photo of the page has that has nothing of its own. */
export function PageSettings({ page }: { page: Page }) {
  const act = useAct()
  const own = page.photos.filter(({ own }) => own.length > 0).length
  return (
    <section
      aria-label="Every photo here"
      className="flex flex-wrap items-center gap-x-3 gap-y-1.5 border border-line bg-sheet px-2.5 py-1.5 text-small"
    >
      <h2 className="font-semibold">Every photo here</h2>
      <SettingsFields
        shown={page.settings}
        onChange={(settings) => act.mutateAsync(() => api.changePage(page.id, { settings }))}
      />
      {own > 0 && (
        <p className="ml-auto text-soft @max-6xl:hidden">{ownWords(own, page.photos.length)}</p>
      )}
    </section>
  )
}

function ownWords(own: number, all: number): string {
  if (own === all && all > 1) return 'all have something of their own'
  return own === 1 ? '1 has something of its own' : `${own} have something of their own`
}
