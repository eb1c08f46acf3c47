import { useDrag } from '@use-gesture/react'

import { onArrows } from '@/ui/keys'
import { limitWords } from '@/words'

import type { Plot } from './chart-model'

const STEP_BYTES = 1000
const BIG_SHARE = 0.05

type Props = {
  value: number
  plot: Plot
  x: { (bytes: number): number; invert: (at: number) => number }
  /** What it is expected to come to while it is moved. */
  expected: string
  onShow: (bytes: number) => void
  onSend: (bytes: number) => void
}

/** The limit, to be dragged: a search begins when it is let go. */
export function LimitLine({ value, plot, x, expected, onShow, onSend }: Props) {
  const floor = plot.height - plot.bottom
  const right = plot.width - plot.right
  const bind = useDrag(
    ({ movement: [dx], memo, last, event }) => {
      event.stopPropagation()
      const from = (memo as number | undefined) ?? x(value)
      const to = rounded(x.invert(from + dx))
      if (last) onSend(to)
      else onShow(to)
      return from
    },
    { pointer: { keys: false }, filterTaps: true },
  )
  const onKeyDown = onArrows((right, down, { shiftKey }) => {
    const big = Math.max(STEP_BYTES, value * BIG_SHARE)
    onSend(rounded(value + (right - down) * (shiftKey ? big : STEP_BYTES)))
  })
  const at = Math.min(x(value), right)
  return (
    <>
      <rect
        x={at}
        y={plot.top}
        width={Math.max(0, right - at)}
        height={floor - plot.top}
        className="pointer-events-none fill-over/6"
      />
      <g
        {...bind()}
        role="slider"
        tabIndex={0}
        aria-label="Limit"
        aria-valuemin={1}
        aria-valuemax={Math.round(x.invert(right))}
        aria-valuenow={value}
        aria-valuetext={`${limitWords(value)}${expected}`}
        onKeyDown={onKeyDown}
        className="cursor-ew-resize touch-none"
      >
        <rect
          x={at - 6}
          y={plot.top}
          width={12}
          height={floor - plot.top}
          className="fill-transparent"
        />
        <path d={`M${at} ${plot.top}V${floor}`} className="stroke-over" strokeWidth={1.5} />
        <path d={`M${at - 4} ${floor}h8v7h-8z`} className="fill-over" />
      </g>
      <text x={at + 7} y={floor - 6} className="pointer-events-none fill-over font-semibold">
        limit {limitWords(value)}
        <tspan className="font-normal">{expected}</tspan>
      </text>
    </>
  )
}

/** Hundreds of bytes, as a limit is written. */
function rounded(bytes: number): number {
  return Math.max(100, Math.round(bytes / 100) * 100)
}
