import { useRef, useState } from 'react'
import { Link } from 'react-router'

import type { Photo } from '@/api/client'
import { urls } from '@/api/urls'
import { paths } from '@/shell/where'
import { buttonClass } from '@/ui/button'
import { Unseen, useRowsInView } from '@/ui/rows-in-view'
import { exactWords, likenessNumber, sizeWords } from '@/words'

import { type Column, rowOf, sorted } from './rows'

const COLUMNS: { column: Column; title: string; isNumber: boolean; width?: string }[] = [
  { column: 'name', title: 'Photo', isNumber: false },
  { column: 'old_bytes', title: 'old', isNumber: true, width: 'w-24' },
  { column: 'new_bytes', title: 'new', isNumber: true, width: 'w-24' },
  { column: 'ratio', title: 'lighter', isNumber: true, width: 'w-21' },
  { column: 'likeness', title: 'likeness', isNumber: true, width: 'w-21' },
  { column: 'worst', title: 'worst damage', isNumber: false, width: 'w-45' },
  { column: 'state', title: 'came to', isNumber: false, width: 'w-50' },
]

const ROW_PX = 27

/** What came of each photo, by any column; saved as CSV. */
export function BatchTable({ pageId, photos }: { pageId: number; photos: Photo[] }) {
  const [by, setBy] = useState<{ column: Column; isRising: boolean } | null>(null)
  const plain = photos.map(rowOf)
  const rows = by ? sorted(plain, by.column, by.isRising) : plain
  const table = useRef<HTMLTableElement>(null)
  const { indexes, above, below } = useRowsInView(table, rows.length, ROW_PX)
  const inView = indexes.flatMap((index) => rows[index] ?? [])
  const sum = (values: (number | null)[]) =>
    values.reduce<number>((all, one) => all + (one ?? 0), 0)
  return (
    <div className="space-y-2">
      <table
        ref={table}
        aria-label="Batch"
        aria-rowcount={rows.length + 2}
        className="w-full table-fixed border-collapse border border-line bg-sheet"
      >
        <thead>
          <tr className="border-b border-line text-small text-soft">
            {COLUMNS.map(({ column, title, isNumber, width }) => (
              <th
                key={column}
                aria-sort={
                  by?.column === column ? (by.isRising ? 'ascending' : 'descending') : 'none'
                }
                className={`px-2.5 py-1 font-medium ${isNumber ? 'text-right' : 'text-left'} ${width ?? ''}`}
              >
                <button
                  type="button"
                  className="hover:text-ink hover:underline"
                  onClick={() =>
                    setBy({
                      column,
                      isRising: by?.column === column ? !by.isRising : column === 'name',
                    })
                  }
                >
                  {title}
                  {by?.column === column && <span aria-hidden>{by.isRising ? ' ↑' : ' ↓'}</span>}
                </button>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          <Unseen height={above} columns={COLUMNS.length} />
          {inView.map((row) => (
            <tr
              key={row.id}
              className="border-b border-line last:border-0 [&>td]:px-2.5 [&>td]:py-1"
            >
              <td className="truncate">
                <Link
                  className="font-semibold hover:underline"
                  to={paths.weigh(row.id)}
                  title={row.name}
                >
                  {row.name}
                </Link>
              </td>
              <td className="num text-right" title={exactWords(row.old_bytes)}>
                {sizeWords(row.old_bytes)}
              </td>
              <td
                className="num text-right"
                title={row.new_bytes === null ? undefined : exactWords(row.new_bytes)}
              >
                {row.new_bytes === null ? '–' : sizeWords(row.new_bytes)}
              </td>
              <td className="num text-right">
                {row.ratio === null ? '–' : `${row.ratio.toFixed(1)}×`}
              </td>
              <td className="num text-right">
                {row.likeness === null ? '–' : likenessNumber(row.likeness)}
              </td>
              <td className="truncate">
                {row.worst || (row.new_bytes === null ? '–' : 'none seen')}
              </td>
              <td className="truncate text-soft" title={row.state}>
                {row.state}
              </td>
            </tr>
          ))}
          <Unseen height={below} columns={COLUMNS.length} />
        </tbody>
        <tfoot>
          <tr className="border-t border-ink font-semibold [&>td]:px-2.5 [&>td]:py-1.5">
            <td>{photos.length} photos</td>
            <td className="num text-right">
              {sizeWords(sum(rows.map(({ old_bytes }) => old_bytes)))}
            </td>
            <td className="num text-right">
              {sizeWords(sum(rows.map(({ new_bytes }) => new_bytes)))}
            </td>
            <td colSpan={4} />
          </tr>
        </tfoot>
      </table>
      <a className={buttonClass('small')} href={urls.batchTable(pageId)} download>
        Save as CSV
      </a>
    </div>
  )
}
