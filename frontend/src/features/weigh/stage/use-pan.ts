import { useDrag } from '@use-gesture/react'
import { type KeyboardEvent, useRef, useState } from 'react'

import type { Size } from '@/ui/use-size'

import { clamped, dragged, MIDDLE, nextZoom, type Zoom } from './view'

const STEP_PX = 60
const ARROWS: Record<string, [number, number]> = {
  ArrowLeft: [STEP_PX, 0],
  ArrowRight: [-STEP_PX, 0],
  ArrowUp: [0, STEP_PX],
  ArrowDown: [0, -STEP_PX],
}

/** Moving the picture by dragging and arrow keys, and zooming by the wheel. */
export function usePan(
  picture: Size,
  pane: Size,
  scale: number,
  onZoom: (zoom: Zoom) => void,
  zoom: Zoom,
) {
  const [centre, setCentre] = useState(MIDDLE)
  const move = (dx: number, dy: number) =>
    setCentre((at) => {
      const from = clamped(at, picture, pane, scale)
      return clamped(dragged(from, dx, dy, picture, scale), picture, pane, scale)
    })
  const bindDrag = useDrag(({ delta: [dx, dy] }) => move(dx, dy), { pointer: { keys: false } })
  const bindWheel = useWheelZoom((by) => onZoom(nextZoom(zoom, by)))
  const onKeyDown = (event: KeyboardEvent) => {
    const by = ARROWS[event.key]
    if (!by || event.target !== event.currentTarget) return
    event.preventDefault()
    move(...by)
  }
  return { centre, bind: { ...bindDrag(), ...bindWheel, onKeyDown } }
}

/** One zoom step for each push of the wheel, however many events it sends. */
function useWheelZoom(onStep: (by: 1 | -1) => void) {
  const quietUntil = useRef(0)
  return {
    onWheel: (event: { deltaY: number; timeStamp: number }) => {
      const isNewPush = event.timeStamp > quietUntil.current
      quietUntil.current = event.timeStamp + 150
      if (isNewPush && event.deltaY) onStep(event.deltaY < 0 ? 1 : -1)
    },
  }
}
