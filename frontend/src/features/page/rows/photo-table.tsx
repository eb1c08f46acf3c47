import { SortableContext, verticalListSortingStrategy } from '@dnd-kit/sortable'
import { useRef } from 'react'

import type { Page } from '@/api/client'

import { dropId } from '@/shell/rails/drop-id'
import { Hint } from '@/ui/hint'
import { useOneStop } from '@/ui/hooks/use-one-stop'
import { Unseen, useRowsInView } from '@/ui/rows-in-view'

import { PhotoRow } from './photo-row'
import type { Selection } from './use-selection'

type Props = {
  page: Page
  pages: Page[]
  order: number[]
  selection: Selection
}

const ROW_PX = 64
const COLUMNS = 8

/** The photos of a page in their order; rows are drawn as they come into view. */
export function PhotoTable({ page, pages, order, selection }: Props) {
  const byId = new Map(page.photos.map((photo) => [photo.id, photo]))
  const photos = order.map((id) => byId.get(id)).filter((photo) => photo !== undefined)
  const table = useRef<HTMLTableElement>(null)
  const rows = useOneStop<HTMLTableSectionElement>()
  const { indexes, above, below } = useRowsInView(table, photos.length, ROW_PX)
  const isAll = selection.ids.length === photos.length
  return (
    <div className="narrow:overflow-x-auto">
      <table
        ref={table}
        aria-label={`Photos of ${page.name}`}
        aria-rowcount={photos.length + 1}
        className="w-full table-fixed border-collapse border border-line bg-sheet narrow:min-w-190"
      >
        <thead>
          <tr className="border-b border-line text-left text-small text-soft [&>th]:px-2 [&>th]:py-1.5 [&>th]:font-medium">
            <th className="w-34 @max-4xl:w-28">
              <Hint words="Ctrl A">
                <input
                  type="checkbox"
                  aria-label="Select all photos"
                  className="block accent-navy"
                  checked={isAll}
                  onChange={() => (isAll ? selection.clear() : selection.all())}
                />
              </Hint>
            </th>
            <th>Photo</th>
            <th className="w-38 @max-4xl:w-36">Size</th>
            <th className="w-34 @max-4xl:w-28">Aim</th>
            <th className="w-24 text-right">Pick</th>
            <th className="w-28 @max-4xl:hidden">Share of its limit</th>
            <th className="w-46 @max-4xl:w-31">Looks</th>
            <th className="w-10">
              <span className="sr-only">More</span>
            </th>
          </tr>
        </thead>
        <tbody ref={rows}>
          <SortableContext
            items={photos.map((photo) => dropId.photo(photo.id))}
            strategy={verticalListSortingStrategy}
          >
            <Unseen height={above} columns={COLUMNS} />
            {indexes.map((index) => {
              const photo = photos[index]
              return (
                photo && <PhotoRow key={photo.id} {...{ photo, page, pages, index, selection }} />
              )
            })}
            <Unseen height={below} columns={COLUMNS} />
          </SortableContext>
        </tbody>
      </table>
    </div>
  )
}
