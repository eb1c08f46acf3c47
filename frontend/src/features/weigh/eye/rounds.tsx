import { useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'

import type { Framed, Series } from '@/api/client'
import { urls } from '@/api/urls'
import { Button } from '@/ui/button'
import { UNLESS_TYPING } from '@/ui/keys'

import { Pane } from '../stage/pane'
import { OriginalPicture } from '../stage/picture'
import { StagePanel } from '../stage/stage-panel'
import { type StageView, useCentre } from '../stage/use-view'

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
        className="m-auto max-w-105 space-y-3 rounded-md border border-line bg-sheet p-4"
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
  const [shown, setShown] = useState<Side | 'original'>('a')
  const [loaded, setLoaded] = useState<Side[]>([])
  const other = shown === 'a' ? 'b' : 'a'
  useHotkeys('x', () => setShown(other), UNLESS_TYPING)
  const { picture, scale, middle } = view
  const centre = useCentre(middle)
  const isReady = loaded.length === SIDES.length
  const isChoice = series.kind === 'choice'
  const paneProps = { picture, scale, centre, background, pane: view.area }
  return (
    <>
      {SIDES.map((side) => (
        <div
          key={side}
          className={`absolute inset-0 ${isReady && side === shown ? '' : 'invisible'}`}
        >
          <Pane {...paneProps} tag={side.toUpperCase()}>
            <img
              src={urls.roundPicture(series.id, series.round, side)}
              alt={`${side.toUpperCase()}, ${framed.width_px} px wide`}
              draggable={false}
              className="absolute inset-0 size-full select-none"
              onLoad={() => setLoaded((those) => [...new Set([...those, side])])}
            />
          </Pane>
        </div>
      ))}
      {shown === 'original' && (
        <div className="absolute inset-0">
          <Pane {...paneProps} tag="Original">
            <OriginalPicture framed={framed} isCrisp={false} />
          </Pane>
        </div>
      )}
      <StagePanel label="Blind round" at="bottom">
        <span role="status" className="text-soft">
          {series.rounds
            ? `Round ${series.round + 1} of ${series.rounds}`
            : `Answer ${series.round + 1}, until it settles`}
        </span>
        <Button
          look="small"
          hint="Shows the other one in its place (X)"
          onClick={() => setShown(other)}
        >
          Show {other.toUpperCase()}
        </Button>
        {isChoice && (
          <Button look="small" onClick={() => setShown('original')}>
            Show the original
          </Button>
        )}
        <span>{isChoice ? 'Nearer to the original?' : 'Which is the original?'}</span>
        {SIDES.map((side) => (
          <Button
            key={side}
            look="main"
            className="px-2 py-1 text-small"
            disabled={!isReady}
            onClick={() => eye.answer(side)}
          >
            {side.toUpperCase()}
          </Button>
        ))}
        <Button look="quiet" className="py-0" onClick={eye.leave}>
          Leave
        </Button>
      </StagePanel>
    </>
  )
}
