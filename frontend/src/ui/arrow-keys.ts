import type { KeyboardEvent } from 'react'

const DIRECTIONS: Record<string, readonly [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
}

/** Handles the arrow keys: a step to the right and down, as 1, 0 or -1 each. */
export function onArrows(move: (right: number, down: number, event: KeyboardEvent) => void) {
  return (event: KeyboardEvent) => {
    const direction = DIRECTIONS[event.key]
    if (!direction || event.target !== event.currentTarget) return
    event.preventDefault()
    move(...direction, event)
  }
}
