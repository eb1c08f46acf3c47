/** How the stage looks at a picture: pure arithmetic on zoom and position. */
import type { Box } from '@/api/client'
import type { Size } from '@/ui/hooks/use-size'

export const MODES = ['side', 'wipe', 'blink', 'difference'] as const
export const ZOOMS = ['fit', '1', '2', '4'] as const
export type Mode = (typeof MODES)[number]
export type Zoom = (typeof ZOOMS)[number]
/** The point of the picture in the middle of a pane, 0 to 1 each way. */
export type Centre = { x: number; y: number }

export const MIDDLE: Centre = { x: 0.5, y: 0.5 }

/** CSS pixels a picture pixel takes: at 1:1 a picture pixel is a device pixel. */
export function scaleOf(zoom: Zoom, picture: Size, pane: Size, devicePixelRatio: number): number {
  if (zoom !== 'fit') return Number(zoom) / devicePixelRatio
  const fit = Math.min(pane.width / picture.width, pane.height / picture.height)
  return Math.min(fit, 1 / devicePixelRatio)
}

/** A centre from which the picture fills the pane where it can, and is in its middle where not. */
export function clamped(centre: Centre, picture: Size, pane: Size, scale: number): Centre {
  const along = (at: number, length: number, room: number) => {
    const half = room / (2 * length * scale)
    return half >= 0.5 ? 0.5 : Math.min(Math.max(at, half), 1 - half)
  }
  return {
    x: along(centre.x, picture.width, pane.width),
    y: along(centre.y, picture.height, pane.height),
  }
}

/** The centre after the picture was dragged by CSS pixels. */
export function dragged(centre: Centre, dx: number, dy: number, picture: Size, scale: number) {
  return {
    x: centre.x - dx / (picture.width * scale),
    y: centre.y - dy / (picture.height * scale),
  }
}

/** The centre at another scale from which the point stays where it is that is `away` from the middle
 * of the pane, in CSS pixels. */
export function zoomedAt(
  centre: Centre,
  away: { x: number; y: number },
  picture: Size,
  scale: number,
  toScale: number,
): Centre {
  const moved = 1 / scale - 1 / toScale
  return {
    x: centre.x + (away.x * moved) / picture.width,
    y: centre.y + (away.y * moved) / picture.height,
  }
}

/** Where the picture's corner goes, on whole device pixels so that 1:1 stays exact. */
export function corner(
  centre: Centre,
  picture: Size,
  pane: Size,
  scale: number,
  devicePixelRatio: number,
) {
  const onGrid = (value: number) => Math.round(value * devicePixelRatio) / devicePixelRatio
  return {
    x: onGrid(pane.width / 2 - centre.x * picture.width * scale),
    y: onGrid(pane.height / 2 - centre.y * picture.height * scale),
  }
}

/** Where a box of the picture lies, in CSS pixels from its corner. */
export function boxStyle(box: Box, scale: number) {
  return {
    left: box.left_px * scale,
    top: box.top_px * scale,
    width: box.width_px * scale,
    height: box.height_px * scale,
  }
}

/** The part of the picture that a pane shows, in whole pixels. */
export function boxInSight(centre: Centre, picture: Size, pane: Size, scale: number): Box {
  const along = (at: number, length: number, room: number) => {
    const half = room / scale / 2
    const first = Math.max(0, Math.floor(at * length - half))
    return { first, seen: Math.min(length, Math.ceil(at * length + half)) - first }
  }
  const seen = clamped(centre, picture, pane, scale)
  const across = along(seen.x, picture.width, pane.width)
  const down = along(seen.y, picture.height, pane.height)
  return {
    left_px: across.first,
    top_px: down.first,
    width_px: across.seen,
    height_px: down.seen,
  }
}

/** A zoom at which a box can be judged: as large as fits the pane well, in whole pixels. */
export function zoomFor(box: Size, pane: Size, devicePixelRatio: number): Zoom {
  const fits = (zoom: number) =>
    (Math.max(box.width / pane.width, box.height / pane.height) * zoom) / devicePixelRatio <= 0.7
  if (fits(4) && Math.max(box.width, box.height) < 60) return '4'
  return fits(2) ? '2' : '1'
}

export function nextZoom(zoom: Zoom, by: 1 | -1): Zoom {
  const index = ZOOMS.indexOf(zoom) + by
  return ZOOMS[Math.min(Math.max(index, 0), ZOOMS.length - 1)] ?? zoom
}
