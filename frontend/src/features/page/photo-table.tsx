import { SortableContext, verticalListSortingStrategy } from '@dnd-kit/sortable'

import type { Page } from '@/api/client'

import { PhotoRow } from './photo-row'
import { dropId } from './use-moving'

type Props = { page: Page; pages: Page[]; order: number[] }

/** The photos of a page in their order. */
export function PhotoTable({ page, pages, order }: Props) {
  const byId = new Map(page.photos.map((photo) => [photo.id, photo]))
  const photos = order.map((id) => byId.get(id)).filter((photo) => photo !== undefined)
  return (
    <table
      aria-label={`Photos of ${page.name}`}
      className="w-full table-fixed border-collapse border border-line bg-sheet"
    >
      <thead>
        <tr className="border-b border-line text-left text-xs text-soft [&>th]:px-2 [&>th]:py-1.5 [&>th]:font-medium">
          <th className="w-[114px]">
            <span className="sr-only">Order and picture</span>
          </th>
          <th>Photo</th>
          <th className="w-[122px]">Place</th>
          <th className="w-[78px]">Aim</th>
          <th className="w-[100px] text-right">Pick</th>
          <th className="w-[124px] @max-4xl:hidden">Share of its limit</th>
          <th className="w-[186px] @max-4xl:w-[140px]">Looks</th>
          <th className="w-[40px]">
            <span className="sr-only">More</span>
          </th>
        </tr>
      </thead>
      <tbody>
        <SortableContext
          items={photos.map((photo) => dropId.photo(photo.id))}
          strategy={verticalListSortingStrategy}
        >
          {photos.map((photo, index) => (
            <PhotoRow key={photo.id} {...{ photo, page, pages, index }} />
          ))}
        </SortableContext>
      </tbody>
    </table>
  )
}
