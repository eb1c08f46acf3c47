import type { ReactNode } from 'react'

const PLACES = {
  top: 'top-2.5 left-1/2 -translate-x-1/2',
  bottom: 'bottom-3 left-1/2 -translate-x-1/2',
  corner: 'top-2.5 left-2.5',
}

type Props = { label: string; at: keyof typeof PLACES; children: ReactNode }

/** Controls that lie on the stage, and do not move it. */
export function StagePanel({ label, at, children }: Props) {
  return (
    <div
      role="group"
      aria-label={label}
      onPointerDown={(event) => event.stopPropagation()}
      className={`absolute flex items-center gap-2 rounded-md border border-line bg-sheet px-2 py-1 text-small whitespace-nowrap ${PLACES[at]}`}
    >
      {children}
    </div>
  )
}
