import { useDrag } from '@use-gesture/react'

import { onArrows } from '@/ui/keys'
import type { Size } from '@/ui/hooks/use-size'

import type { FramingEditor } from '../use-framing'

import { bounded } from './crop-model'

const STEP = 0.01

/** The point that stays in sight where the place cuts the photo. */
export function FocusPoint({ framing, size }: { framing: FramingEditor; size: Size }) {
  const { focus } = framing
  const { x, y } = focus.value
  const moved = (dx: number, dy: number) => ({
    x: Math.round(bounded(x + dx, 0, 1) * 1000) / 1000,
    y: Math.round(bounded(y + dy, 0, 1) * 1000) / 1000,
  })
  const bind = useDrag(
    ({ delta: [dx, dy], last, event }) => {
      event.stopPropagation()
      const to = moved(dx / size.width, dy / size.height)
      if (last) focus.send(to)
      else focus.show(to)
    },
    { pointer: { keys: false } },
  )
  const onKeyDown = onArrows((right, down) => focus.send(moved(right * STEP, down * STEP)))
  return (
    <button
      type="button"
      {...bind()}
      onKeyDown={onKeyDown}
      aria-label={`Focus point, ${Math.round(x * 100)} % across and ${Math.round(y * 100)} % down: drag it or use the arrow keys`}
      className="absolute size-7 -translate-1/2 cursor-move touch-none rounded-[50%] border-2 border-white outline-1 outline-ink"
      style={{ left: `${x * 100}%`, top: `${y * 100}%` }}
    >
      <span className="absolute top-1/2 left-1/2 size-1.5 -translate-1/2 bg-white" />
    </button>
  )
}
