import { useState, useSyncExternalStore } from 'react'

import type { Box, Framed } from '@/api/client'
import { type Size, useSize } from '@/ui/hooks/use-size'

import { useLook } from './use-look'
import { type Centre, MIDDLE, scaleOf, zoomFor } from './view'

export const PANES_APART_PX = 2

/** Where the stage looks: its size, the size of a pane, the scale, and the middle of the view. */
export type StageView = {
  measure: ReturnType<typeof useSize>[0]
  area: Size
  pane: Size
  picture: Size
  scale: number
  middle: Middle
  goTo: (box: Box) => void
}

/** The middle of the view. It moves with the pointer, so only who draws the stage reads it as it is. */
export type Middle = {
  now: () => Centre
  set: (to: Centre) => void
  listen: (listener: () => void) => () => void
}

function middleAt(first: Centre): Middle {
  let centre = first
  const listeners = new Set<() => void>()
  return {
    now: () => centre,
    set: (to) => {
      centre = to
      for (const listener of listeners) listener()
    },
    listen: (listener) => {
      listeners.add(listener)
      return () => listeners.delete(listener)
    },
  }
}

/** The middle as it is: who asks is drawn again whenever it moves. */
export function useCentre({ listen, now }: Middle): Centre {
  return useSyncExternalStore(listen, now)
}

export function useView(framed: Framed | null): StageView {
  const [look, setLook] = useLook()
  const [middle] = useState(() => middleAt(MIDDLE))
  const [measure, area] = useSize()
  const picture: Size = { width: framed?.width_px ?? 1, height: framed?.height_px ?? 1 }
  const pane: Size =
    look.mode === 'side' ? { ...area, width: (area.width - PANES_APART_PX) / 2 } : area
  const scale = scaleOf(look.zoom, picture, pane, window.devicePixelRatio)
  const goTo = (box: Box) => {
    middle.set({
      x: (box.left_px + box.width_px / 2) / picture.width,
      y: (box.top_px + box.height_px / 2) / picture.height,
    })
    const size = { width: box.width_px, height: box.height_px }
    setLook({ zoom: zoomFor(size, pane, window.devicePixelRatio) })
  }
  return { measure, area, pane, picture, scale, middle, goTo }
}
