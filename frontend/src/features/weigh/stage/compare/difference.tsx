import { type ReactNode, useState } from 'react'

const GAINS = [2, 4, 8, 16, 32] as const

type Props = { first: ReactNode; second: ReactNode }

/** How far two pictures are apart, channel by channel, amplified; black is no difference. */
export function Difference({ first, second }: Props) {
  const [gain, setGain] = useState(8)
  return (
    <>
      <div
        className="absolute inset-0 isolate"
        style={{ filter: `brightness(${gain})` }}
        data-testid="difference"
      >
        <div className="absolute inset-0">{first}</div>
        <div className="absolute inset-0 mix-blend-difference">{second}</div>
      </div>
      <div
        role="group"
        aria-label="Difference"
        onPointerDown={(event) => event.stopPropagation()}
        className="absolute top-2.5 left-1/2 flex -translate-x-1/2 items-center gap-2 rounded-md border border-line bg-sheet px-2 py-1 text-xs"
      >
        <label className="flex items-center gap-1.5">
          <span className="text-soft">Amplified</span>
          <select
            value={gain}
            onChange={(event) => setGain(Number(event.target.value))}
            className="rounded-md border border-line bg-field px-1 py-0.5"
          >
            {GAINS.map((each) => (
              <option key={each} value={each}>
                {each} times
              </option>
            ))}
          </select>
        </label>
        <span className="inline-block h-3 w-20 border border-line bg-linear-to-r from-ink to-white" />
        <span className="text-soft">
          black: the same; white: {Math.ceil(255 / gain)} of 255 codes or more apart
        </span>
      </div>
    </>
  )
}
