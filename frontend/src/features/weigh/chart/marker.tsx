import { useDrag } from '@use-gesture/react'

import type { Encode, QualityStep } from '@/api/client'
import { onArrows } from '@/ui/keys'
import { FORMAT_FILLS, FORMAT_SHAPES, FORMAT_STROKES } from '@/ui/format-mark'
import { likenessNumber, sizeWords } from '@/words'

import type { Tuning } from '../tuning/use-tuning'

import { isTunable, stepForBytes, stepOf, steppedFrom, turned, wantedAt } from './series'

/** With Shift, a key changes the bytes by this share. */
const BIG_SHARE = 0.05

type Props = {
  encode: Encode
  steps: readonly QualityStep[]
  tuning: Tuning
  x: { (bytes: number): number; invert: (at: number) => number }
  y: (likeness: number) => number
}

/** The selected encode on its curve: dragged or moved by keys, it spends more bytes or fewer. */
export function Marker({ encode, steps, tuning, x, y }: Props) {
  const { format } = encode.settings
  const step = stepOf(encode.settings)
  const isAsked = tuning.wanted?.width_px === encode.width_px
  const wantedStep = isAsked && tuning.wanted ? stepOf(tuning.wanted.settings) : null
  const shown = steps.find((each) => each.step === wantedStep)
  const moveTo = (to: number | undefined) => {
    if (to === undefined || !isTunable(encode) || to === (wantedStep ?? step)) return
    void tuning.tune(encode, wantedAt(turned(encode, tuning.wanted), to))
  }
  const bind = useDrag(
    ({ movement: [dx], memo, event }) => {
      event.stopPropagation()
      const from = (memo as number | undefined) ?? x(encode.size_bytes)
      if (step !== null) moveTo(stepForBytes(steps, x.invert(from + dx)))
      return from
    },
    { pointer: { keys: false }, filterTaps: true },
  )
  const onKeyDown = onArrows((right, down, { shiftKey }) => {
    if (step === null) return
    const by = right - down > 0 ? 1 : -1
    moveTo(steppedFrom(steps, wantedStep ?? step, by, shiftKey ? BIG_SHARE : 0))
  })
  const at = [x(encode.size_bytes), y(encode.likeness)]
  return (
    <>
      {shown && !shown.is_measured && (
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
        aria-valuemin={steps[0]?.step ?? 0}
        aria-valuemax={steps.at(-1)?.step ?? 0}
        aria-valuenow={step ?? 0}
        aria-valuetext={`${sizeWords(encode.size_bytes)}, likeness ${likenessNumber(encode.likeness)}, ${encode.likeness_words}`}
        aria-disabled={steps.length === 0}
        onKeyDown={onKeyDown}
        className={`touch-none ${steps.length === 0 ? '' : 'cursor-ew-resize'}`}
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
