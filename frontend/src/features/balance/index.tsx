import { Link } from 'react-router'

import type { Page } from '@/api/client'
import { useBalance } from '@/api/many'
import { paths, useWhere } from '@/shell/where'

import { PageRail } from '../page/page-rail'
import { Answer } from './answer'
import { useWish, Wishes } from './wishes'

/** Balance: the bytes of a page, spent where they are seen. */
export default function BalanceScreen() {
  const { pages, page, isLoaded } = useWhere()
  return (
    <div className="grid min-h-0 grid-cols-[212px_minmax(0,1fr)]">
      <PageRail pages={pages} page={page} />
      <main aria-busy={!isLoaded} className="min-h-0 overflow-y-auto px-4.5 py-4">
        {page && <Balancing key={page.id} page={page} />}
        {isLoaded && !page && <p className="text-[17px]">There is no such page.</p>}
      </main>
    </div>
  )
}

function Balancing({ page }: { page: Page }) {
  const { wish, change } = useWish()
  const { data: balance, error } = useBalance(page.id, wish)
  return (
    <div className="space-y-3">
      <div className="flex items-start justify-between gap-4">
        <div>
          <h2 className="text-[15px] font-semibold">Balance the page</h2>
          <p className="text-soft">
            The same bytes, spent where they are seen. Nothing changes until you take it; one step
            back undoes it.
          </p>
        </div>
        <Link className="text-navy hover:underline" to={paths.page(page.id)}>
          Back to the photos
        </Link>
      </div>
      <Wishes page={page} wish={wish} balance={balance} onChange={change} />
      {error && (
        <p role="alert" className="text-over">
          {error.message}
        </p>
      )}
      {balance && <Answer page={page} balance={balance} wish={wish} />}
    </div>
  )
}
