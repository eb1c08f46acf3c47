import type { ReactNode } from 'react'

type Props = { title: string; beside?: ReactNode; children: ReactNode }

/** A part of the panel under its heading. */
export function Section({ title, beside, children }: Props) {
  return (
    <section aria-label={title} className="space-y-2 border-b border-line px-3.5 py-3">
      <div className="flex items-center justify-between">
        <h2 className="text-tiny font-semibold text-soft">{title}</h2>
        {beside}
      </div>
      {children}
    </section>
  )
}
