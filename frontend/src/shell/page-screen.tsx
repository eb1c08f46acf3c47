import type { ComponentType } from 'react'

import type { Page } from '@/api/client'

import { PageRail } from './rails/page-rail'
import { useWhere } from './where'

type Props = { content: ComponentType<{ page: Page }>; className?: string }

/** A screen for one page: the rail to choose it from, and its content, which begins anew with each. */
export function PageScreen({ content: Content, className = '' }: Props) {
  const { pages, page, isLoaded } = useWhere()
  return (
    <div className="grid min-h-0 grid-cols-[13.25rem_minmax(0,1fr)] narrow:block">
      <PageRail pages={pages} page={page} />
      <main aria-busy={!isLoaded} className={`min-h-0 min-w-0 ${className}`}>
        {page && <Content key={page.id} page={page} />}
        {isLoaded && !page && <p className="p-4.5 text-title">There is no such page.</p>}
      </main>
    </div>
  )
}
