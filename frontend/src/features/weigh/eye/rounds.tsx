import { useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'

import { type Framed, type Series, urls } from '@/api/client'
import { Button } from '@/ui/button'
import { UNLESS_TYPING } from '@/ui/keys'

import { Pane } from '../stage/pane'
import type { StageView } from '../stage/use-view'

import type { Eye } from './use-eye'

const SIDES = ['a', 'b'] as const
type Side = (typeof SIDES)[number]

type Props = { eye: Eye; series: Series; framed: Framed; view: StageView; background: string }

/** A blind round: two pictures without names in the same place, and the question. */
export function Rounds(props: Props) {
  const { eye, series } = props
  if (series.outcome) {
    return (
      <div
        role="status"
        className="m-auto max-w-[420px] space-y-3 rounded-md border border-line bg-sheet p-4"
      >
        <p>{series.outcome.words}.</p>
        <p className="text-soft">It is kept in the journal of this photo.</p>
        <Button look="main" onClick={eye.leave}>
          Back to the candidates
        </Button>
      </div>
    )
  }
  return <Round key={series.round} {...props} />
}

function Round({ eye, series, framed, view, background }: Props) {
  const [side, setSide] = useState<Side>('a')
  const [loaded, setLoaded] = useState<Side[]>([])
  const swap = () => setSide((is) => (is === 'a' ? 'b' : 'a'))
  useHotkeys('x', swap, UNLESS_TYPING)
  const { picture, pane, scale, centre } = view
  const isReady = loaded.length === SIDES.length
  return (
    <>
      {SIDES.map((each) => (
        <div
          key={each}
          className={`absolute inset-0 ${isReady && each === side ? '' : 'invisible'}`}
        >
          <Pane
            {...{ picture, scale, centre, background }}
            pane={{ ...pane, width: view.area.width }}
            tag={each.toUpperCase()}
          >
            <img
              src={urls.roundPicture(series.series_id, series.round, each)}
              alt={`${each.toUpperCase()}, ${framed.width_px} px wide`}
              draggable={false}
              className="absolute inset-0 size-full select-none"
              onLoad={() => setLoaded((those) => [...new Set([...those, each])])}
            />
          </Pane>
        </div>
      ))}
      <div
        role="group"
        aria-label="Blind round"
        onPointerDown={(event) => event.stopPropagation()}
        className="absolute bottom-3 left-1/2 flex -translate-x-1/2 items-center gap-2 rounded-md border border-line bg-sheet px-3 py-2 text-xs whitespace-nowrap"
      >
        <span role="status" className="text-soft">
          {series.rounds
            ? `Round ${series.round + 1} of ${series.rounds}`
            : `Answer ${series.round + 1}, until it settles`}
        </span>
        <Button look="small" title="Shows the other one in its place (X)" onClick={swap}>
          Show {side === 'a' ? 'B' : 'A'}
        </Button>
        <span>{series.kind === 'choice' ? 'Nearer to the original?' : 'Which is the original?'}</span>
        {SIDES.map((each) => (
          <Button
            key={each}
            look="main"
            className="!px-2 !py-1 !text-xs"
            disabled={!isReady}
            onClick={() => eye.answer(each)}
          >
            {each.toUpperCase()}
          </Button>
        ))}
        <Button look="quiet" className="!py-0" onClick={eye.leave}>
          Leave
        </Button>
      </div>
    </>
  )
}
