import { useState } from 'react'

import type { Box, Framed } from '@/api/client'
import { type Size, useSize } from '@/ui/use-size'

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
  centre: Centre
  setCentre: (to: Centre) => void
  goTo: (box: Box) => void
}

export function useView(framed: Framed | null): StageView {
  const [look, setLook] = useLook()
  const [centre, setCentre] = useState(MIDDLE)
  const [measure, area] = useSize()
  const picture: Size = { width: framed?.width_px ?? 1, height: framed?.height_px ?? 1 }
  const pane: Size =
    look.mode === 'side' ? { ...area, width: (area.width - PANES_APART_PX) / 2 } : area
  const scale = scaleOf(look.zoom, picture, pane, window.devicePixelRatio)
  const goTo = (box: Box) => {
    setCentre({
      x: (box.left_px + box.width_px / 2) / picture.width,
      y: (box.top_px + box.height_px / 2) / picture.height,
    })
    const size = { width: box.width_px, height: box.height_px }
    setLook({ zoom: zoomFor(size, pane, window.devicePixelRatio) })
  }
  return { measure, area, pane, picture, scale, centre, setCentre, goTo }
}
