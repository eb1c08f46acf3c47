import { Link } from 'react-router'

import type { Page } from '@/api/client'
import { useBalance } from '@/api/many'
import { PageScreen } from '@/shell/page-screen'
import { paths } from '@/shell/where'

import { Answer } from './answer'
import { useWish, Wishes } from './wishes'

/** Balance: the bytes of a page, spent where they are seen. */
export default function BalanceScreen() {
  return <PageScreen content={Balancing} className="overflow-y-auto px-4.5 py-4" />
}

function Balancing({ page }: { page: Page }) {
  const { wish, change } = useWish()
  const { data: balance, error } = useBalance(page.id, wish)
  return (
    <div className="space-y-3">
      <div className="flex items-start justify-between gap-4">
        <div>
          <h2 className="text-lead font-semibold">Balance the page</h2>
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
