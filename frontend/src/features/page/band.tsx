import { Link } from 'react-router'

import { api, type Page } from '@/api/client'
import { urls } from '@/api/urls'
import { useAct } from '@/api/queries'
import { readSize } from '@/api/typed'
import { paths } from '@/shell/where'
import { Button, buttonClass } from '@/ui/button'
import { Field } from '@/ui/fields/field'
import { useOneStop } from '@/ui/hooks/use-one-stop'
import { exactWords, limitWords, sizeWords } from '@/words'

import type { Side } from './index'

/** Below this share of the band a size does not fit into its part. */
const LABELLED_SHARE = 0.085

/** Each photo as wide as its share of the page's bytes, and what is left of the budget. */
type Props = { page: Page; side: Side; onTreatments: () => void }

export function Band({ page, side, onTreatments }: Props) {
  const { fetched_bytes, left_bytes } = page.totals
  const list = useOneStop<HTMLUListElement>()
  const whole = Math.max(fetched_bytes, page.budget_bytes ?? 0, 1)
  const isOver = left_bytes !== null && left_bytes < 0
  return (
    <section aria-label="Where the bytes go">
      <div className="mb-2 flex items-end justify-between gap-4 narrow:flex-wrap">
        <div>
          <h2 className="text-lead font-semibold">Where the bytes go</h2>
          <p className="text-soft @max-4xl:hidden">
            Each photo is as wide as its share of the page; without a pick it weighs nothing yet.
          </p>
        </div>
        <div className="flex shrink-0 items-center gap-3 narrow:shrink narrow:flex-wrap">
          <Button look="small" aria-expanded={side === 'treatments'} onClick={onTreatments}>
            Treatments
          </Button>
          <Link className={buttonClass('small')} to={paths.balance(page.id)}>
            Balance
          </Link>
          <Budget page={page} />
        </div>
      </div>
      <ul ref={list} className="flex h-23 overflow-hidden border border-ink bg-hair">
        {page.photos.map((photo) => {
          if (photo.fetched_bytes === null) return null
          const share = photo.fetched_bytes / whole
          const words = `${photo.name}: ${sizeWords(photo.fetched_bytes)}`
          return (
            <li
              key={photo.id}
              className="relative min-w-[3px] border-r border-ink last:border-0"
              style={{ width: `${share * 100}%` }}
            >
              <Link
                to={paths.weigh(photo.id)}
                aria-label={words}
                title={`${words}, ${exactWords(photo.fetched_bytes)}`}
                className="block h-full focus-visible:-outline-offset-2"
              >
                <img
                  src={urls.thumbnail(photo)}
                  loading="lazy"
                  alt=""
                  className="size-full object-cover"
                />
                {share > LABELLED_SHARE && (
                  <span className="num absolute bottom-1.5 left-1.5 rounded-sm bg-ink px-1.5 py-0.5 text-small whitespace-nowrap text-white">
                    {sizeWords(photo.fetched_bytes)}
                  </span>
                )}
              </Link>
            </li>
          )
        })}
        {left_bytes !== null && left_bytes > 0 && (
          <li className="flex min-w-0 grow items-center justify-center px-2 text-center text-soft">
            {sizeWords(left_bytes)} left to spend
          </li>
        )}
        {isOver && (
          <li
            className="w-2 grow-0 bg-over"
            aria-label={`${sizeWords(-left_bytes)} over the budget`}
          />
        )}
      </ul>
    </section>
  )
}

function Budget({ page }: { page: Page }) {
  const act = useAct()
  const budget = page.budget_bytes
  return (
    <Field
      label="Budget"
      text={budget === null ? '' : limitWords(budget)}
      onEnter={async (text) => {
        const budget_bytes = await readSize(text)
        act.mutate(() => api.changePage(page.id, { budget_bytes }))
      }}
      className="w-24 text-right font-semibold"
    />
  )
}
