import { useDrag } from '@use-gesture/react'
import { useRef } from 'react'

import { onArrows } from '@/ui/arrow-keys'

import type { StageView } from './use-view'
import { clamped, dragged, nextZoom, type Zoom } from './view'

const STEP_PX = 60

type Panned = Pick<StageView, 'picture' | 'pane' | 'scale' | 'centre' | 'setCentre'> & {
  zoom: Zoom
  onZoom: (zoom: Zoom) => void
}

/** Moving the picture by dragging and arrow keys, and zooming by the wheel. */
export function usePan({ picture, pane, scale, centre, setCentre, zoom, onZoom }: Panned) {
  const move = (dx: number, dy: number) => {
    const from = clamped(centre, picture, pane, scale)
    setCentre(clamped(dragged(from, dx, dy, picture, scale), picture, pane, scale))
  }
  const bindDrag = useDrag(({ delta: [dx, dy] }) => move(dx, dy), { pointer: { keys: false } })
  const bindWheel = useWheelZoom((by) => onZoom(nextZoom(zoom, by)))
  const onKeyDown = onArrows((right, down) => move(-right * STEP_PX, -down * STEP_PX))
  return { ...bindDrag(), ...bindWheel, onKeyDown }
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
