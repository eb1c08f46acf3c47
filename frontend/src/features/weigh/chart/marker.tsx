import { useDrag } from '@use-gesture/react'

import type { Encode } from '@/api/client'
import { onArrows } from '@/ui/keys'
import { FORMAT_FILLS, FORMAT_SHAPES, FORMAT_STROKES } from '@/ui/format-mark'
import { likenessNumber, sizeWords } from '@/words'

import type { Tuning } from '../tuning/use-tuning'

import {
  expectedAt,
  isTunable,
  type Point,
  stepForBytes,
  stepOf,
  steppedFrom,
  turned,
  wantedAt,
} from './series'

/** With Shift, a key changes the bytes by this share. */
const BIG_SHARE = 0.05

type Props = {
  encode: Encode
  points: readonly Point[]
  steps: readonly number[]
  tuning: Tuning
  x: { (bytes: number): number; invert: (at: number) => number }
  y: (likeness: number) => number
}

/** The selected encode on its curve: dragged or moved by keys, it spends more bytes or fewer. */
export function Marker({ encode, points, steps, tuning, x, y }: Props) {
  const { format } = encode.settings
  const step = stepOf(encode.settings)
  const isAsked = tuning.wanted?.width_px === encode.width_px
  const wantedStep = isAsked && tuning.wanted ? stepOf(tuning.wanted.settings) : null
  const shown = wantedStep === null ? null : expectedAt(points, wantedStep)
  const moveTo = (to: number) => {
    if (!isTunable(encode) || to === (wantedStep ?? step)) return
    void tuning.tune(encode, wantedAt(turned(encode, tuning.wanted), to))
  }
  const bind = useDrag(
    ({ movement: [dx], memo, event }) => {
      event.stopPropagation()
      const from = (memo as number | undefined) ?? x(encode.size_bytes)
      if (step !== null) moveTo(stepForBytes(points, steps, x.invert(from + dx)))
      return from
    },
    { pointer: { keys: false }, filterTaps: true },
  )
  const onKeyDown = onArrows((right, down, { shiftKey }) => {
    if (step === null) return
    const by = right - down > 0 ? 1 : -1
    moveTo(steppedFrom(points, steps, wantedStep ?? step, by, shiftKey ? BIG_SHARE : 0))
  })
  const at = [x(encode.size_bytes), y(encode.likeness)]
  return (
    <>
      {shown && !shown.isMeasured && (
        <path
          d={FORMAT_SHAPES[format]}
          transform={`translate(${x(shown.size_bytes)} ${y(shown.likeness)}) scale(1.3)`}
          strokeWidth={1.2}
          className={`fill-sheet ${FORMAT_STROKES[format]}`}
        />
      )}
      <g
        {...(step === null ? {} : bind())}
        transform={`translate(${at.join(' ')})`}
        role="slider"
        tabIndex={0}
        aria-label={`${encode.name} on its curve`}
        aria-valuemin={steps[0] ?? 0}
        aria-valuemax={steps.at(-1) ?? 0}
        aria-valuenow={step ?? 0}
        aria-valuetext={`${sizeWords(encode.size_bytes)}, likeness ${likenessNumber(encode.likeness)}, ${encode.likeness_words}`}
        aria-disabled={step === null}
        onKeyDown={onKeyDown}
        className={`touch-none ${step === null ? '' : 'cursor-ew-resize'}`}
      >
        <circle r={13} className="fill-transparent" />
        <circle r={11} fill="none" strokeWidth={1.5} className="stroke-ink" />
        <path
          d={FORMAT_SHAPES[format]}
          transform="scale(1.3)"
          strokeWidth={1.2}
          className={`stroke-white ${FORMAT_FILLS[format]}`}
        />
      </g>
    </>
  )
}
