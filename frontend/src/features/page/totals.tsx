import type { Page } from '@/api/client'
import { secondsWords, sizeWords } from '@/words'

/** What the picks come to: bytes against the budget, and how long they travel. */
export function Totals({ page }: { page: Page }) {
  const { fetched_bytes, old_browser_bytes, original_bytes, left_bytes, line_times } = page.totals
  const isOver = left_bytes !== null && left_bytes < 0
  const over = page.photos.filter(({ over_bytes }) => over_bytes > 0)
  const unexplained = over.filter(({ reason }) => !reason).length
  return (
    <section aria-label="Totals" className="flex flex-wrap items-center gap-x-4 gap-y-1 text-soft">
      <p>
        <Number isOver={isOver}>{sizeWords(fetched_bytes)}</Number> fetched by a browser of today at{' '}
        {page.settings.density}×
        {isOver && <span className="text-over">, {sizeWords(-left_bytes)} over</span>}
      </p>
      {over.length > 0 && (
        <p className="text-over">
          {over.length === 1 ? '1 photo' : `${over.length} photos`} over{' '}
          {over.length === 1 ? 'its' : 'their'} limit
          {unexplained > 0 && `, ${unexplained} without a reason`}
        </p>
      )}
      {fetched_bytes > 0 && (
        <>
          {line_times.map(({ mbit_s, seconds }) => (
            <p key={mbit_s}>
              <Number>{secondsWords(seconds)}</Number> at {mbit_s} Mbit/s
            </p>
          ))}
          {old_browser_bytes !== fetched_bytes && (
            <p>
              <Number>{sizeWords(old_browser_bytes)}</Number> by an old one
            </p>
          )}
          <p>
            <Number>{sizeWords(original_bytes)}</Number> came in,{' '}
            <Number>{(original_bytes / fetched_bytes).toFixed(1)}</Number> times lighter
          </p>
        </>
      )}
    </section>
  )
}

function Number({ isOver, children }: { isOver?: boolean; children: React.ReactNode }) {
  return <b className={`num font-semibold ${isOver ? 'text-over' : 'text-ink'}`}>{children}</b>
}
