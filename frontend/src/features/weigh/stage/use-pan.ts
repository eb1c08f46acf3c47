import { useDrag } from '@use-gesture/react'
import { useRef, type WheelEvent } from 'react'

import { onArrows } from '@/ui/keys'

import { PANES_APART_PX, type StageView } from './use-view'
import { type Centre, clamped, dragged, nextZoom, scaleOf, type Zoom, zoomedAt } from './view'

const STEP_PX = 60

type Panned = Pick<StageView, 'picture' | 'pane' | 'scale'> & {
  centre: Centre
  setCentre: (to: Centre) => void
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
  /** Zooms by a step; what lies under the pointer, so far from the corner of a pane, stays there. */
  const zoomAt = (by: 1 | -1, { x, y }: { x: number; y: number }) => {
    const to = nextZoom(zoom, by)
    const from = clamped(centre, picture, pane, scale)
    const toScale = scaleOf(to, picture, pane, window.devicePixelRatio)
    const away = { x: x - pane.width / 2, y: y - pane.height / 2 }
    setCentre(clamped(zoomedAt(from, away, picture, scale, toScale), picture, pane, toScale))
    onZoom(to)
  }
  const bindWheel = useWheelZoom(pane.width, zoomAt)
  const onKeyDown = onArrows((right, down) => move(-right * STEP_PX, -down * STEP_PX))
  return { ...bindDrag(), ...bindWheel, onKeyDown }
}

/** One zoom step for each push of the wheel, however many events it sends. */
function useWheelZoom(
  paneWidth: number,
  onStep: (by: 1 | -1, at: { x: number; y: number }) => void,
) {
  const quietUntil = useRef(0)
  return {
    onWheel: (event: WheelEvent) => {
      const isNewPush = event.timeStamp > quietUntil.current
      quietUntil.current = event.timeStamp + 150
      if (!isNewPush || !event.deltaY) return
      const stage = event.currentTarget.getBoundingClientRect()
      const x = (event.clientX - stage.x) % (paneWidth + PANES_APART_PX)
      onStep(event.deltaY < 0 ? 1 : -1, { x, y: event.clientY - stage.y })
    },
  }
}
