import type { PointerEvent } from 'react'

type Handlers = { onPointerDown?: (event: PointerEvent) => void }

/** The handlers of a drag that what lies under it does not see begin. */
export function alone<T extends object>(handlers: T): T {
  return {
    ...handlers,
    onPointerDown: (event: PointerEvent) => {
      event.stopPropagation()
      ;(handlers as Handlers).onPointerDown?.(event)
    },
  }
}
