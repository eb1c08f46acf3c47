/**
 * A line across a pane, by where its two ends lie on the border: 0 to 1 along the top from the left,
 * then on along the right, the bottom and the left side, clockwise up to 4.
 */
import type { Size } from '@/ui/hooks/use-size'

export type Line = { from: number; to: number }
export type Point = { x: number; y: number }

/** From the middle of the top to the middle of the bottom. */
export const UPRIGHT: Line = { from: 0.5, to: 2.5 }

const wrapped = (at: number) => ((at % 4) + 4) % 4

export function pointAt(at: number, { width, height }: Size): Point {
  const side = Math.floor(wrapped(at))
  const along = wrapped(at) - side
  if (side === 0) return { x: along * width, y: 0 }
  if (side === 1) return { x: width, y: along * height }
  if (side === 2) return { x: (1 - along) * width, y: height }
  return { x: 0, y: (1 - along) * height }
}

/** The place on the border that is nearest to a point. */
export function nearest({ x, y }: Point, { width, height }: Size): number {
  const across = Math.min(Math.max(x / width, 0), 1)
  const down = Math.min(Math.max(y / height, 0), 1)
  const sides = [
    { away: y, at: across },
    { away: width - x, at: 1 + down },
    { away: height - y, at: 3 - across },
    { away: x, at: 4 - down },
  ]
  return wrapped(sides.reduce((best, side) => (side.away < best.away ? side : best)).at)
}

/** What lies clockwise after the first end, as a CSS polygon. */
export function partAfter({ from, to }: Line, size: Size): string {
  const end = wrapped(to - from)
  const corners = [0, 1, 2, 3]
    .map((corner) => wrapped(corner - from))
    .filter((way) => way > 0 && way < end)
    .sort((one, other) => one - other)
  const places = [from, ...corners.map((way) => from + way), to]
  const points = places.map((at) => pointAt(at, size))
  return `polygon(${points.map(({ x, y }) => `${x}px ${y}px`).join(', ')})`
}

/** The line moved by so many pixels; its ends slide along the border. */
export function moved(line: Line, by: Point, size: Size): Line {
  const slide = (at: number) => {
    const { x, y } = pointAt(at, size)
    const isLevel = Math.floor(wrapped(at)) % 2 === 0
    const to = isLevel ? { x: x + by.x, y } : { x, y: y + by.y }
    return isLevel
      ? onSide(at, Math.min(Math.max(to.x / size.width, 0), 1))
      : onSide(at, Math.min(Math.max(to.y / size.height, 0), 1))
  }
  return { from: slide(line.from), to: slide(line.to) }
}

/** A place on the same side as another, by its share from the left or the top. */
function onSide(at: number, share: number): number {
  const side = Math.floor(wrapped(at))
  const along = side < 2 ? share : 1 - share
  return side + Math.min(along, 0.9999)
}

/** Whether the line lies rather than stands. */
export function isLying(line: Line): boolean {
  return [line.from, line.to].every((at) => Math.floor(wrapped(at)) % 2 === 1)
}

/** How far a point lies beside the line, to the right and below it. */
export function offset(line: Line, at: Point, size: Size): Point {
  const [from, to] = [pointAt(line.from, size), pointAt(line.to, size)]
  const along = (share: number, start: number, end: number) => start + share * (end - start)
  const [wide, high] = [to.x - from.x, to.y - from.y]
  return {
    x: high === 0 ? 0 : at.x - along((at.y - from.y) / high, from.x, to.x),
    y: wide === 0 ? 0 : at.y - along((at.x - from.x) / wide, from.y, to.y),
  }
}

/** Where the line crosses the middle of a pane: how far to the right, or down where it lies. */
export function shareAlong(line: Line, size: Size): number {
  const middle = { x: size.width / 2, y: size.height / 2 }
  const beside = offset(line, middle, size)
  const share = isLying(line)
    ? (middle.y - beside.y) / size.height
    : (middle.x - beside.x) / size.width
  return Math.min(Math.max(share, 0), 1)
}
