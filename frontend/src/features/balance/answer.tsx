import { useRef, useState } from 'react'
import { useNavigate } from 'react-router'

import { api, type Balance, type BalanceWish, type Page } from '@/api/client'
import { useAct } from '@/api/queries'
import { paths } from '@/shell/where'
import { Button } from '@/ui/button'
import { Unseen, useRowsInView } from '@/ui/rows-in-view'
import { countWords, sizeWords } from '@/words'

import { BeforeAfter } from './before-after'
import { BalanceRow } from './row'
import { useMeasured } from './use-measured'

type Props = { page: Page; balance: Balance; wish: BalanceWish }

/** What each photo would get, before and after, how sure that is, and taking it. */
export function Answer({ page, balance: found, wish }: Props) {
  const navigate = useNavigate()
  const measured = useMeasured(page.id, found, wish)
  const balance = measured.shown
  const taking = useAct()
  const [isSeen, setIsSeen] = useState(false)
  const isSame = balance.photos.every(({ before, after }) => before?.id === after.id)
  const picks = balance.photos.map(({ photo_id, after }) => ({ photo_id, encode_id: after.id }))
  if (balance.photos.length === 0) {
    return <p className="text-lead">{balance.sentence} Weigh the photos first.</p>
  }
  return (
    <section aria-label="Answer" className="border border-line bg-sheet">
      <Shares page={page} balance={balance} />
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1.5 border-t border-line px-2.5 py-2">
        {measured.isMeasuring ? (
          <p role="status">
            Measuring what decides, {countWords(found.made, 'encode')} so far. Likenesses may still
            move by what stands beside them.
          </p>
        ) : (
          <p role="status" className={balance.missing_bytes > 0 ? 'text-over' : ''}>
            {balance.sentence}{' '}
            {balance.missing_bytes === 0 && (
              <span className="text-soft">
                {sizeWords(balance.spent_bytes)} of {sizeWords(balance.budget_bytes)} are spent.
              </span>
            )}
          </p>
        )}
        <div className="ml-auto flex gap-2">
          <Button look="small" aria-expanded={isSeen} onClick={() => setIsSeen(!isSeen)}>
            {isSeen ? 'Hide the pictures' : 'See them before and after'}
          </Button>
          {measured.isMeasuring && (
            <Button look="small" onClick={measured.stop}>
              Stop measuring
            </Button>
          )}
          {measured.mayMeasure && (
            <Button look="small" onClick={measured.measure}>
              Measure on
            </Button>
          )}
          {measured.hasBetter && (
            <Button look="small" onClick={measured.showBetter}>
              Show a better one
            </Button>
          )}
          <Button
            look="main"
            disabled={
              taking.isPending || measured.isMeasuring || isSame || balance.missing_bytes > 0
            }
            onClick={() =>
              taking.mutate(() => api.takeBalance(page.id, picks), {
                onSuccess: () => void navigate(paths.page(page.id)),
              })
            }
          >
            Take this balance
          </Button>
        </div>
      </div>
      {balance.unweighed.length > 0 && (
        <p className="border-t border-line px-2.5 py-2 text-soft">
          Not weighed yet, and not part of it: {balance.unweighed.join(', ')}.
        </p>
      )}
      {isSeen && <BeforeAfter balance={balance} />}
    </section>
  )
}

const ROW_PX = 55
const COLUMNS = 7

/** What each photo gets, row by row. */
function Shares({ page, balance }: { page: Page; balance: Balance }) {
  const photos = new Map(page.photos.map((photo) => [photo.id, photo]))
  const most = Math.max(
    1,
    ...balance.photos.map(({ fetched_bytes, after_bytes }) =>
      Math.max(after_bytes, fetched_bytes ?? 0),
    ),
  )
  const table = useRef<HTMLTableElement>(null)
  const { indexes, above, below } = useRowsInView(table, balance.photos.length, ROW_PX)
  return (
    <table
      ref={table}
      aria-rowcount={balance.photos.length + 1}
      className="w-full table-fixed border-collapse"
    >
      <thead>
        <tr className="border-b border-line text-left text-small text-soft [&>th]:px-2.5 [&>th]:py-1.5 [&>th]:font-medium">
          <th className="w-22">
            <span className="sr-only">Picture</span>
          </th>
          <th className="w-[24%]">Photo</th>
          <th>Bytes, before (line) and after (box)</th>
          <th className="w-22 text-right">before</th>
          <th className="w-29 text-right">after</th>
          <th className="w-32 text-right">likeness</th>
          <th
            className="w-22"
            title="How far the likeness may still move once what decides is measured"
          >
            how sure
          </th>
        </tr>
      </thead>
      <tbody>
        <Unseen height={above} columns={COLUMNS} />
        {indexes.map((index) => {
          const balanced = balance.photos[index]
          return (
            balanced && (
              <BalanceRow
                key={balanced.photo_id}
                balanced={balanced}
                photo={photos.get(balanced.photo_id)}
                most={most}
              />
            )
          )
        })}
        <Unseen height={below} columns={COLUMNS} />
      </tbody>
    </table>
  )
}
