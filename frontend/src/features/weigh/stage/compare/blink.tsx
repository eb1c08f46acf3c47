import { type ReactNode, useEffect, useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'

import { Button } from '@/ui/button'
import { UNLESS_TYPING } from '@/ui/keys'

/** Times a second that the pictures change places. */
const RATES = [0.5, 1, 2, 4] as const
const QUIET = window.matchMedia('(prefers-reduced-motion: reduce)')

type Props = { first: ReactNode; second: ReactNode }

/** Two pictures that take turns in the same place; by hand for people who asked for less motion. */
export function Blink({ first, second }: Props) {
  const [rate, setRate] = useState<number>(2)
  const [isRunning, setIsRunning] = useState(!QUIET.matches)
  const [isSecond, setIsSecond] = useState(true)
  useEffect(() => {
    if (!isRunning) return undefined
    const timer = setInterval(() => setIsSecond((is) => !is), 1000 / rate / 2)
    return () => clearInterval(timer)
  }, [isRunning, rate])
  const swap = () => {
    setIsRunning(false)
    setIsSecond((is) => !is)
  }
  useHotkeys('x', swap, UNLESS_TYPING)
  return (
    <>
      {/* Both stay in the page, so that neither is decoded anew at each turn. */}
      <div className={isSecond ? 'invisible' : ''}>{first}</div>
      <div className={`absolute inset-0 ${isSecond ? '' : 'invisible'}`}>{second}</div>
      <div
        role="group"
        aria-label="Blink"
        onPointerDown={(event) => event.stopPropagation()}
        className="absolute top-2.5 left-1/2 flex -translate-x-1/2 items-center gap-2 rounded-md border border-line bg-sheet px-2 py-1 text-xs"
      >
        <Button look="small" onClick={() => setIsRunning((is) => !is)}>
          {isRunning ? 'Stop' : 'Go'}
        </Button>
        <Button look="small" title="Shows the other one (X)" onClick={swap}>
          Swap
        </Button>
        <label className="flex items-center gap-1.5">
          <span className="text-soft">Times a second</span>
          <select
            value={rate}
            onChange={(event) => setRate(Number(event.target.value))}
            className="rounded-md border border-line bg-field px-1 py-0.5"
          >
            {RATES.map((each) => (
              <option key={each}>{each}</option>
            ))}
          </select>
        </label>
      </div>
    </>
  )
}
