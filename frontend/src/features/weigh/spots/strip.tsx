import { useHotkeys } from 'react-hotkeys-hook'

import type { Encode, Framed } from '@/api/client'
import { useTerms } from '@/api/queries'
import { Button } from '@/ui/button'
import { useOneStop } from '@/ui/hooks/use-one-stop'
import { UNLESS_TYPING } from '@/ui/keys'

import { CloseUps } from './close-up'
import type { MarkedAreas } from './use-marks'
import type { ShownSpot } from './use-spots'

const SIDE_PX = 70

type Props = {
  framed: Framed
  /** The one that is looked at, or two that are compared, the lighter first. */
  encodes: Encode[]
  spots: ShownSpot[]
  verdict: string | undefined
  problem: string | undefined
  chosen: number | null
  marks: MarkedAreas
  onChoose: (number: number) => void
}

/** The trouble spots of an encode as pairs of close-ups, worst first. */
export function Strip(props: Props) {
  const { framed, encodes, spots, verdict, problem, chosen, marks, onChoose } = props
  const title = encodes.length > 1 ? 'What the bytes buy' : 'Trouble spots'
  const list = useOneStop<HTMLUListElement>()
  const step = (by: number) => {
    if (spots.length === 0) return
    const from = chosen ?? (by > 0 ? -1 : 0)
    onChoose((from + by + spots.length) % spots.length)
  }
  useHotkeys('t', () => step(1), UNLESS_TYPING)
  useHotkeys('shift+t', () => step(-1), UNLESS_TYPING)
  return (
    <section
      aria-label="Trouble spots"
      className="grid min-h-0 grid-cols-[13.5rem_minmax(0,1fr)] gap-3 narrow:grid-cols-[minmax(0,1fr)] border-t border-line bg-desk px-3 py-1.5"
    >
      <div className="min-w-0 overflow-hidden text-small">
        <h2 className="font-semibold" title="T goes to the next spot, Shift T to the one before">
          {spots.length === 0 ? title : `${title}, ${spots.length}`}
        </h2>
        {marks.areas.length > 0 && (
          <Button look="quiet" className="py-0 text-tiny" onClick={marks.removeAll}>
            Remove {marks.areas.length === 1 ? 'the mark' : `${marks.areas.length} marks`}
          </Button>
        )}
        <p
          role="status"
          title={verdict}
          className="line-clamp-4 text-small leading-[1.25] text-soft"
        >
          {problem ?? verdict ?? 'Looking for damage …'}
        </p>
      </div>
      <ul ref={list} className="flex gap-2 overflow-x-auto">
        {spots.map((spot, number) => (
          <li key={`${spot.box.left_px} ${spot.box.top_px}`} className="shrink-0">
            <button
              type="button"
              aria-pressed={chosen === number}
              onClick={() => onChoose(number)}
              className={`relative flex h-full items-start gap-2 rounded-md border-2 bg-sheet p-1 text-left focus-visible:-outline-offset-2 ${chosen === number ? 'border-navy' : 'border-sheet hover:border-line'}`}
            >
              <CloseUps framed={framed} encodes={encodes} box={spot.box} side={SIDE_PX} />
              <SpotWords spot={spot} isSeen={number === (chosen ?? 0)} />
            </button>
          </li>
        ))}
      </ul>
    </section>
  )
}

/** What a spot suffers from: to be seen of the chosen one, and always to be heard. */
function SpotWords({ spot, isSeen }: { spot: ShownSpot; isSeen: boolean }) {
  const { damage_kinds } = useTerms()
  const sentence = damage_kinds.find(({ kind }) => kind === spot.kind)?.sentence
  return (
    <span title={sentence} className={isSeen ? 'block w-16 text-tiny leading-tight' : 'sr-only'}>
      <b className="font-semibold first-letter:uppercase">{spot.name}</b>
      <span className="mt-0.5 block text-soft">{spot.words}</span>
      {spot.isMarked && <span className="mt-0.5 block font-semibold text-navy">matters</span>}
    </span>
  )
}
