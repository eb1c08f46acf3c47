import { Link } from 'react-router'

import { type Photo, urls } from '@/api/client'
import { limitWords, sizeWords } from '@/words'

type Props = { photos: Photo[]; selectedId: number | undefined }

/** The photos of the workspace, each with what it weighs. */
export function PhotoList({ photos, selectedId }: Props) {
  return (
    <ul className="space-y-0.5">
      {photos.map((photo) => (
        <li key={photo.id}>
          <Link
            to={`/photos/${photo.id}`}
            aria-current={photo.id === selectedId ? 'page' : undefined}
            className="grid grid-cols-[56px_1fr] gap-2.5 rounded-lg border-l-[3px] border-transparent p-1.5 hover:bg-field aria-[current]:border-navy aria-[current]:bg-wash"
          >
            <img
              src={urls.thumbnail(photo.id)}
              alt=""
              className="h-[42px] w-14 rounded-sm object-cover"
            />
            <div className="min-w-0">
              <p className="truncate text-[12.5px] font-semibold" title={photo.name}>
                {photo.name}
              </p>
              <p className="text-[11px] text-soft">
                {photo.aim.place.css_width_px} px at {photo.aim.place.density}×
              </p>
              <Weight photo={photo} />
            </div>
          </Link>
        </li>
      ))}
    </ul>
  )
}

function Weight({ photo }: { photo: Photo }) {
  const limit = photo.aim.limit_bytes
  if (!photo.pick) {
    return <p className="text-[11px] text-soft">limit {limitWords(limit)}</p>
  }
  const share = Math.min(1, photo.pick.size_bytes / limit)
  const isOver = photo.pick.size_bytes > limit
  return (
    <>
      <p className={`num text-[11px] ${isOver ? 'font-semibold text-over' : 'text-soft'}`}>
        {sizeWords(photo.pick.size_bytes)} of {limitWords(limit)}
        {isOver ? ', over' : ''}
      </p>
      <div className="mt-1 h-[3px] bg-hair" aria-hidden>
        <div
          className={`h-full ${isOver ? 'bg-over' : 'bg-navy'}`}
          style={{ width: `${share * 100}%` }}
        />
      </div>
    </>
  )
}
