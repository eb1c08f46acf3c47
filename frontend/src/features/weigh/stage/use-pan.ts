import { useDrag } from '@use-gesture/react'
import { useRef, useState } from 'react'

import { onArrows } from '@/ui/arrow-keys'
import type { Size } from '@/ui/use-size'

import { clamped, dragged, MIDDLE, nextZoom, type Zoom } from './view'

const STEP_PX = 60

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
  const onKeyDown = onArrows((right, down) => move(-right * STEP_PX, -down * STEP_PX))
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
