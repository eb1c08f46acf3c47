import { useVirtualizer } from '@tanstack/react-virtual'
import { type RefObject, useLayoutEffect, useState } from 'react'

type Rows = { indexes: number[]; above: number; below: number }

/** The rows of a long table that are in view, and how many CSS pixels the others take. */
export function useRowsInView(
  table: RefObject<HTMLTableElement | null>,
  count: number,
  rowPx: number,
): Rows {
  const [top, setTop] = useState(0)
  // What stands above may grow or go: by less than what is drawn beyond the view.
  useLayoutEffect(() => setTop(topWithin(table.current)), [table, count])
  // What this returns must not be kept from one drawing to the next: its functions change what they return.
  // oxlint-disable-next-line react/incompatible-library
  const virtual = useVirtualizer({
    count,
    getScrollElement: () => scrollerOf(table.current),
    estimateSize: () => rowPx,
    overscan: 12,
    scrollMargin: top,
  })
  const rows = virtual.getVirtualItems()
  return {
    indexes: rows.map(({ index }) => index),
    above: Math.max(0, (rows[0]?.start ?? top) - top),
    below: Math.max(0, virtual.getTotalSize() - ((rows.at(-1)?.end ?? top) - top)),
  }
}

/** The room of rows that are not drawn. */
export function Unseen({ height, columns }: { height: number; columns: number }) {
  if (height === 0) return null
  return (
    <tr aria-hidden style={{ height }}>
      <td colSpan={columns} />
    </tr>
  )
}

function scrollerOf(element: HTMLElement | null): HTMLElement | null {
  const parent = element?.parentElement ?? null
  if (!parent || /auto|scroll/.test(getComputedStyle(parent).overflowY)) return parent
  return scrollerOf(parent)
}

function topWithin(element: HTMLElement | null): number {
  const scroller = scrollerOf(element)
  if (!element || !scroller) return 0
  const tops = [element, scroller].map((each) => each.getBoundingClientRect().top)
  return Math.round((tops[0] ?? 0) - (tops[1] ?? 0) + scroller.scrollTop)
}
