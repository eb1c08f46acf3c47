import type { ReactNode } from 'react'

type Props = { title: string; beside?: ReactNode; children: ReactNode }

/** A part of a rail or panel under its heading. */
export function Titled({ title, beside, children }: Props) {
  return (
    <section aria-label={title}>
      <div className="mb-2 flex items-center justify-between gap-2 px-1.5">
        <h2 className="text-tiny font-semibold text-soft">{title}</h2>
        {beside}
      </div>
      {children}
    </section>
  )
}
