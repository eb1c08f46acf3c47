import { type ReactNode, useState } from 'react'

import { Choice } from '@/ui/fields/choice'

import { StagePanel } from '../stage-panel'

const GAINS = ['2', '4', '8', '16', '32'] as const

type Props = { first: ReactNode; second: ReactNode }

/** How far two pictures are apart, channel by channel, amplified; black is no difference. */
export function Difference({ first, second }: Props) {
  const [gain, setGain] = useState<(typeof GAINS)[number]>('8')
  return (
    <>
      <div className="absolute inset-0 isolate" style={{ filter: `brightness(${gain})` }}>
        <div className="absolute inset-0">{first}</div>
        <div className="absolute inset-0 mix-blend-difference">{second}</div>
      </div>
      <StagePanel label="Difference" at="top">
        <Choice
          label="Amplified"
          className="w-24"
          value={gain}
          options={GAINS.map((each) => ({ value: each, text: `${each} times` }))}
          onChange={setGain}
        />
        <span className="inline-block h-3 w-20 border border-line bg-linear-to-r from-ink to-white" />
        <span className="text-soft">
          white: {Math.ceil(255 / Number(gain))} of 255 levels or more apart
        </span>
      </StagePanel>
    </>
  )
}
