import { useState } from 'react'

import { api, type LibraryPhoto } from '@/api/client'
import { urls } from '@/api/urls'
import { useAct, useLibrary } from '@/api/queries'
import { Button } from '@/ui/button'
import { Choice } from '@/ui/fields/choice'

type Props = { pageId: number; onClose: () => void }

/** Photos on offer, each in several sizes, with the credit that travels along. */
export function Library({ pageId, onClose }: Props) {
  const library = useLibrary().data
  return (
    <aside
      aria-label="Picture library"
      className="min-h-0 overflow-y-auto border-l border-line bg-sheet px-3.5 py-3"
    >
      <div className="flex items-start justify-between gap-2">
        <div>
          <h2 className="font-semibold">{library?.name ?? 'Picture library'}</h2>
          <p className="text-small text-soft">
            A stand-in for a picture service, on this machine. Each photo brings its credit.
          </p>
        </div>
        <Button onClick={onClose}>Close</Button>
      </div>
      <ul className="mt-3 space-y-3">
        {library?.photos.map((photo) => (
          <Offer key={photo.file} photo={photo} pageId={pageId} />
        ))}
      </ul>
    </aside>
  )
}

function Offer({ photo, pageId }: { photo: LibraryPhoto; pageId: number }) {
  const widths = photo.widths_px.map((width) => ({ value: String(width), text: `${width} px` }))
  const [width, setWidth] = useState(widths.at(-1)?.value ?? '')
  const act = useAct()
  const choice = { file: photo.file, width_px: Number(width), page_id: pageId }
  return (
    <li className="grid grid-cols-[4.5rem_1fr] gap-2.5 border-t border-hair pt-3">
      <img
        loading="lazy"
        src={urls.libraryThumbnail(photo.file)}
        alt={photo.alt}
        className="h-12 w-18 rounded-sm object-cover"
      />
      <div className="min-w-0">
        <p className="truncate font-semibold" title={photo.title}>
          {photo.title}
        </p>
        <p className="truncate text-tiny text-soft" title={photo.credit.licence}>
          {photo.credit.rights}, {photo.credit.credit}
        </p>
        <div className="mt-1 flex gap-2">
          <Choice
            label={`Width of ${photo.title}`}
            isLabelHidden
            className="w-24"
            value={width}
            options={widths}
            onChange={setWidth}
          />
          <Button
            aria-label={act.isPending ? `Adding … ${photo.title}` : `Add ${photo.title}`}
            disabled={act.isPending}
            onClick={() => act.mutate(() => api.addFromLibrary(choice))}
          >
            {act.isPending ? 'Adding …' : 'Add'}
          </Button>
        </div>
      </div>
    </li>
  )
}
