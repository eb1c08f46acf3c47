import { useDrag } from '@use-gesture/react'
import { type KeyboardEvent, useState } from 'react'

import type { Box } from '@/api/client'
import { onArrows } from '@/ui/keys'
import { Button } from '@/ui/button'
import type { Size } from '@/ui/hooks/use-size'

import { boxStyle, type Centre } from '../view'

const STEP_PX = 8

type Props = {
  picture: Size
  scale: number
  centre: Centre
  onMark: (box: Box, matters: boolean) => void
  onLeave: () => void
}

/** A frame to lay over what matters, or over what does not; by mouse or by keys. */
export function Marker({ picture, scale, centre, onMark, onLeave }: Props) {
  const [box, setBox] = useState<Box>(() => boxAround(centre, picture))
  const drag = useDrag(
    ({ xy: [x, y], initial: [x0, y0], event, currentTarget }) => {
      event.stopPropagation()
      const { left, top } = (currentTarget as HTMLElement).getBoundingClientRect()
      const at = (value: number, start: number, most: number) =>
        Math.min(Math.max(Math.round((value - start) / scale), 0), most)
      const [ax, bx] = [at(x0, left, picture.width), at(x, left, picture.width)]
      const [ay, by] = [at(y0, top, picture.height), at(y, top, picture.height)]
      setBox({
        left_px: Math.min(ax, bx),
        top_px: Math.min(ay, by),
        width_px: Math.max(Math.abs(ax - bx), 1),
        height_px: Math.max(Math.abs(ay - by), 1),
      })
    },
    { pointer: { keys: false } },
  )
  const keys = {
    onKeyDown: (event: KeyboardEvent<HTMLElement>) => {
      const change = event.shiftKey ? sized : shifted
      onArrows((right, down) =>
        setBox((it) => change(it, right * STEP_PX, down * STEP_PX, picture)),
      )(event)
    },
  }
  return (
    <div {...drag()} className="absolute inset-0 cursor-crosshair touch-none">
      <div
        role="group"
        aria-label="Area to mark: arrow keys move it, with Shift they size it"
        tabIndex={0}
        {...keys}
        className="absolute border-2 border-white outline outline-navy"
        style={boxStyle(box, scale)}
      >
        <div
          className="absolute top-full left-0 mt-1 flex gap-1"
          onPointerDown={(event) => event.stopPropagation()}
        >
          <Button look="small" onClick={() => onMark(box, true)}>
            Matters
          </Button>
          <Button look="small" onClick={() => onMark(box, false)}>
            Does not matter
          </Button>
          <Button look="small" onClick={onLeave}>
            Leave
          </Button>
        </div>
      </div>
    </div>
  )
}

/** A square around what is in the middle of the view. */
function boxAround(centre: Centre, { width, height }: Size): Box {
  const side = Math.max(Math.round(Math.min(width, height) / 8), 1)
  const start = (at: number, length: number) =>
    Math.min(Math.max(Math.round(at * length - side / 2), 0), length - side)
  return {
    left_px: start(centre.x, width),
    top_px: start(centre.y, height),
    width_px: side,
    height_px: side,
  }
}

function shifted(box: Box, right: number, down: number, picture: Size): Box {
  const at = (start: number, by: number, length: number, most: number) =>
    Math.min(Math.max(start + by, 0), most - length)
  return {
    ...box,
    left_px: at(box.left_px, right, box.width_px, picture.width),
    top_px: at(box.top_px, down, box.height_px, picture.height),
  }
}

function sized(box: Box, right: number, down: number, picture: Size): Box {
  const to = (length: number, by: number, start: number, most: number) =>
    Math.min(Math.max(length + by, 1), most - start)
  return {
    ...box,
    width_px: to(box.width_px, right, box.left_px, picture.width),
    height_px: to(box.height_px, down, box.top_px, picture.height),
  }
}
