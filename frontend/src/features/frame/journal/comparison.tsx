import { useEffect, useRef, useState } from 'react'

import type { Weighing } from '@/api/client'
import { urls } from '@/api/urls'
import { useComparison, useJournal } from '@/api/queries'
import { Segments } from '@/ui/fields/segments'

const ZOOMS = [
  { value: 'fit', text: 'Fit' },
  { value: '1', text: '1:1' },
] as const
type Zoom = (typeof ZOOMS)[number]['value']

type Props = { weighing: Weighing; entryIds: number[] }

/** Two steps of the journal beside each other, the earlier one left. */
export function Comparison({ weighing, entryIds }: Props) {
  const [firstId = 0, secondId = 0] = [...entryIds].sort((a, b) => a - b)
  const comparison = useComparison(weighing.id, firstId, secondId)
  const entries = useJournal(weighing.id).data?.entries ?? []
  const words = (id: number) => entries.find((entry) => entry.id === id)?.words ?? ''
  const [zoom, setZoom] = useState<Zoom>('fit')
  const panes = useRef<HTMLDivElement>(null)
  const follow = (led: Element) => {
    for (const pane of panes.current?.querySelectorAll('[data-pane]') ?? []) {
      if (pane !== led) scrollAs(pane, led)
    }
  }
  const stepProps = { photoId: weighing.id, zoom, onScroll: follow }
  return (
    <main
      aria-label="Comparison of two steps"
      aria-busy={comparison.isPending}
      className="grid min-h-0 min-w-0 grid-rows-[auto_minmax(0,1fr)_auto]"
    >
      <div className="flex border-b border-line bg-desk px-3.5 py-1.5">
        <Segments label="Zoom" value={zoom} options={ZOOMS} onChange={setZoom} />
      </div>
      <div ref={panes} className="grid min-h-0 grid-cols-2 gap-0.5 bg-stage">
        <Step key={firstId} {...stepProps} entryId={firstId} words={words(firstId)} />
        <Step key={secondId} {...stepProps} entryId={secondId} words={words(secondId)} />
      </div>
      <div className="max-h-60 overflow-y-auto border-t border-line bg-sheet px-3.5 py-2">
        {comparison.error && <p className="text-over">{comparison.error.message}</p>}
        {comparison.data?.differences.length === 0 && <p>These two steps are the same.</p>}
        <table className="w-full text-left">
          <tbody>
            {comparison.data?.differences.map(({ topic, before, after }) => (
              <tr key={topic} className="border-b border-hair last:border-0">
                <th className="w-32 py-1 font-medium text-soft">{topic}</th>
                <td className="py-1">{before}</td>
                <td className="py-1 font-semibold">{after}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </main>
  )
}

/** Shows the same part of one picture as another pane does of its own. */
function scrollAs(pane: Element, led: Element) {
  const along = (at: number, room: number, own: number) => (room > 0 ? (at / room) * own : 0)
  pane.scrollTo(
    along(led.scrollLeft, led.scrollWidth - led.clientWidth, pane.scrollWidth - pane.clientWidth),
    along(
      led.scrollTop,
      led.scrollHeight - led.clientHeight,
      pane.scrollHeight - pane.clientHeight,
    ),
  )
}

type StepProps = {
  photoId: number
  entryId: number
  words: string
  zoom: Zoom
  onScroll: (pane: Element) => void
}

function Step({ photoId, entryId, words, zoom, onScroll }: StepProps) {
  const [hasFailed, setHasFailed] = useState(false)
  const [widthPx, setWidthPx] = useState<number>()
  const isFitted = zoom === 'fit'
  const own = useRef<HTMLDivElement>(null)
  // A picture that comes later begins where the other one is.
  useEffect(() => {
    const other = own.current?.closest('main')?.querySelectorAll('[data-pane]') ?? []
    for (const pane of other) if (own.current && pane !== own.current) scrollAs(own.current, pane)
  }, [widthPx, isFitted])
  return (
    <figure className="relative grid min-h-0 min-w-0 grid-rows-[minmax(0,1fr)]">
      {hasFailed ? (
        <p className="m-auto rounded-md bg-sheet p-3">Its pixels cannot be made again.</p>
      ) : (
        <div
          ref={own}
          data-pane
          tabIndex={isFitted ? undefined : 0}
          role="group"
          aria-label={`Picture after “${words}”`}
          onScroll={({ currentTarget }) => onScroll(currentTarget)}
          className={`flex min-h-0 min-w-0 ${isFitted ? 'p-4' : 'overflow-auto'}`}
        >
          <img
            src={urls.entryPixels(photoId, entryId)}
            alt={`As framed after “${words}”`}
            className={
              isFitted ? 'm-auto max-h-full max-w-full object-contain' : 'm-auto max-w-none'
            }
            style={isFitted ? undefined : { width: widthPx }}
            onLoad={({ currentTarget }) =>
              setWidthPx(currentTarget.naturalWidth / window.devicePixelRatio)
            }
            onError={() => setHasFailed(true)}
          />
        </div>
      )}
      <figcaption className="absolute bottom-2.5 left-2.5 max-w-[90%] truncate rounded-sm bg-ink px-2 py-1 text-small text-white">
        {words}
      </figcaption>
    </figure>
  )
}
