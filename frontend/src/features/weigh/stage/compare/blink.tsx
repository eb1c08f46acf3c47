import { type ReactNode, useEffect, useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'

import { Button } from '@/ui/button'
import { Choice } from '@/ui/fields/choice'
import { UNLESS_TYPING } from '@/ui/keys'

import { StagePanel } from '../stage-panel'

/** Times a second that the pictures change places. */
const RATES = ['0.5', '1', '2', '4'] as const
const QUIET = window.matchMedia('(prefers-reduced-motion: reduce)')

type Props = { first: ReactNode; second: ReactNode }

/** Two pictures that take turns in the same place; by hand for people who asked for less motion. */
export function Blink({ first, second }: Props) {
  const [rate, setRate] = useState<(typeof RATES)[number]>('2')
  const [isRunning, setIsRunning] = useState(!QUIET.matches)
  const [isSecond, setIsSecond] = useState(true)
  useEffect(() => {
    if (!isRunning) return undefined
    const timer = setInterval(() => setIsSecond((is) => !is), 1000 / Number(rate) / 2)
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
      <StagePanel label="Blink" at="top">
        <Button look="small" onClick={() => setIsRunning((is) => !is)}>
          {isRunning ? 'Stop' : 'Go'}
        </Button>
        <Button look="small" hint="Shows the other one (X)" onClick={swap}>
          Swap
        </Button>
        <Choice
          label="Times a second"
          className="w-16"
          value={rate}
          options={RATES.map((each) => ({ value: each, text: each }))}
          onChange={setRate}
        />
      </StagePanel>
    </>
  )
}
