import { useDrag } from '@use-gesture/react'

import { onArrows } from '@/ui/keys'

import type { Plot } from './chart-model'

/** The highest likeness that can be aimed for. */
const MOST = 99
const BIG_STEP = 5

type Props = {
  value: number
  plot: Plot
  y: { (likeness: number): number; invert: (at: number) => number }
  /** What it is expected to come to while it is moved. */
  expected: string
  onShow: (likeness: number) => void
  onSend: (likeness: number) => void
}

/** The likeness from which on more bytes are no use, to be dragged. */
export function LikenessLine({ value, plot, y, expected, onShow, onSend }: Props) {
  const right = plot.width - plot.right
  const bind = useDrag(
    ({ movement: [, dy], memo, last, event }) => {
      event.stopPropagation()
      const from = (memo as number | undefined) ?? y(value)
      const to = inRange(y.invert(from + dy))
      if (last) onSend(to)
      else onShow(to)
      return from
    },
    { pointer: { keys: false }, filterTaps: true },
  )
  const onKeyDown = onArrows((across, down, { shiftKey }) =>
    onSend(inRange(value + (across - down) * (shiftKey ? BIG_STEP : 1))),
  )
  const at = Math.min(y(value), plot.height - plot.bottom)
  return (
    <>
      <g
        {...bind()}
        role="slider"
        tabIndex={0}
        aria-label="Enough"
        aria-valuemin={0}
        aria-valuemax={MOST}
        aria-valuenow={value}
        aria-valuetext={`likeness ${value}${expected}`}
        onKeyDown={onKeyDown}
        className="cursor-ns-resize touch-none"
      >
        <rect
          x={plot.left}
          y={at - 6}
          width={Math.max(0, right - plot.left)}
          height={12}
          className="fill-transparent"
        />
        <path d={`M${plot.left} ${at}H${right}`} className="stroke-navy" strokeWidth={1.5} />
        <path d={`M${plot.left - 7} ${at - 4}v8h7v-8z`} className="fill-navy" />
      </g>
      <text
        x={plot.left + 6}
        y={at > plot.top + 12 ? at - 5 : at + 13}
        className="pointer-events-none fill-navy font-semibold"
      >
        enough: {value}
        <tspan className="font-normal">{expected}</tspan>
      </text>
    </>
  )
}

function inRange(likeness: number): number {
  return Math.min(MOST, Math.max(0, Math.round(likeness)))
}
