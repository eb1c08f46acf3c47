import type { ReactNode } from 'react'

type Props = { label: string; at: 'top' | 'bottom'; children: ReactNode }

/** Controls that lie on the stage, and do not move it. */
export function StagePanel({ label, at, children }: Props) {
  return (
    <div
      role="group"
      aria-label={label}
      onPointerDown={(event) => event.stopPropagation()}
      className={`absolute left-1/2 flex -translate-x-1/2 items-center gap-2 rounded-md border border-line bg-sheet px-2 py-1 text-small whitespace-nowrap ${at === 'top' ? 'top-2.5' : 'bottom-3'}`}
    >
      {children}
    </div>
  )
}
