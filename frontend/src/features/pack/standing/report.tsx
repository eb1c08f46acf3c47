import type { Visit } from '@/api/client'
import type { Line } from '@/features/weigh/arrival/lines'
import { Button } from '@/ui/button'
import { countWords, exactWords, secondsWords, sizeWords } from '@/words'

import type { StandingWindow, Told } from './windows'

type Props = {
  size: StandingWindow
  stood: { visit: Visit; told: Told | null; again: () => void } | undefined
  line: Line | null
}

/** A picture with so many times the pixels across that are shown was sent too large. */
const TOO_LARGE = 1.5

/** What was really sent to a window, against the plan, and when its pictures stood. */
export function Report({ size, stood, line }: Props) {
  if (!stood) {
    return (
      <div className="w-64 shrink-0 bg-sheet p-2.5" role="status">
        <h3 className="font-semibold">Standing in the page</h3>
        <p className="text-soft">{size.name}: the pictures are on their way.</p>
      </div>
    )
  }
  const { visit, told, again } = stood
  if (!told) {
    return (
      <div className="w-64 shrink-0 space-y-1 bg-sheet p-2.5" role="status">
        <h3 className="font-semibold">Standing in the page</h3>
        <p>
          {size.name}: the page has not told how it stands, though it had the time. Of{' '}
          {countWords(visit.plan.length, 'file')}, {visit.sent.length} were fetched.
        </p>
        <Button look="small" onClick={again}>
          Try again
        </Button>
      </div>
    )
  }
  const planned = sum(visit.plan)
  const sent = sum(visit.sent)
  const times = told.pictures.flatMap(({ stood_ms }) => (stood_ms === null ? [] : [stood_ms]))
  const rows = visit.plan.map((plan, index) => ({
    plan,
    sent: visit.sent.find(({ photo_id }) => photo_id === plan.photo_id),
    shown_px: (told.pictures[index]?.shown_css_px ?? 0) * told.density,
  }))
  const large = rows.filter(({ sent, shown_px }) => isTooLarge(sent?.width_px, shown_px))
  return (
    <div className="w-64 shrink-0 self-start bg-sheet p-2.5 text-small">
      <h3 className="mb-0.5 text-body font-semibold">Standing in the page, {size.name}</h3>
      <dl className="grid grid-cols-[auto_1fr] gap-x-3 [&>dd]:num [&>dd]:text-right">
        <dt>Fetched</dt>
        <dd>
          {visit.sent.length} {visit.sent.length === 1 ? 'file' : 'files'}
        </dd>
        <dt>Planned</dt>
        <dd title={exactWords(planned)}>{sizeWords(planned)}</dd>
        <dt>Sent</dt>
        <dd title={exactWords(sent)} className={sent > planned ? 'font-semibold text-over' : ''}>
          {sizeWords(sent)}
        </dd>
        {times.length > 0 && (
          <>
            <dt>First and last picture</dt>
            <dd title={line ? 'Over the simulated line' : 'From this machine itself'}>
              {secondsWords(Math.min(...times) / 1000)}, {secondsWords(Math.max(...times) / 1000)}
            </dd>
          </>
        )}
        <dt>Larger than shown</dt>
        <dd>{large.length === 0 ? 'none' : large.length}</dd>
      </dl>
      <details className="mt-1">
        <summary className="cursor-pointer text-navy">File by file</summary>
        <ul>
          {rows.map(({ plan, sent, shown_px }) => (
            <li key={plan.photo_id} className="mt-1 border-t border-hair pt-0.5">
              <span className="num break-all">{sent?.path ?? plan.path}</span>
              <span className="block text-soft">
                {sent
                  ? `${sizeWords(sent.size_bytes)}${sent.path === plan.path ? ', as planned' : `, planned was ${plan.path}`}`
                  : 'not fetched before somebody scrolls there'}
                {isTooLarge(sent?.width_px, shown_px) &&
                  `; ${((sent?.width_px ?? 0) / shown_px).toFixed(1)} times as wide as it is shown`}
              </span>
            </li>
          ))}
        </ul>
      </details>
    </div>
  )
}

const sum = (files: { size_bytes: number }[]) =>
  files.reduce((all, { size_bytes }) => all + size_bytes, 0)

const isTooLarge = (width_px: number | undefined, shown_px: number) =>
  width_px !== undefined && shown_px > 0 && width_px > TOO_LARGE * shown_px
