import { Link } from 'react-router'

import type { Photo } from '@/api/client'
import { urls } from '@/api/urls'
import { Gauge } from '@/ui/gauge'
import { useOneStop } from '@/ui/hooks/use-one-stop'
import { Titled } from '@/ui/titled'
import { aimWords, limitWords, shareWords, sizeWords, standingWords } from '@/words'

import { paths, useWhere } from '../where'

/** The photos of the page, each with what it weighs; choosing one stays on the screen. */
export function PhotoRail() {
  const { page, photo, screen } = useWhere()
  const photos = page?.photos ?? []
  const list = useOneStop<HTMLUListElement>()
  return (
    <nav
      aria-label="Photos"
      className="min-h-0 overflow-y-auto border-r border-line bg-sheet px-2 py-3 narrow:max-h-44 narrow:border-r-0 narrow:border-b"
    >
      <Titled
        title={page ? `Photos of ${page.name}` : 'Photos'}
        beside={<span className="num text-tiny text-soft">{photos.length}</span>}
      >
        <ul ref={list} className="space-y-0.5">
          {photos.map((each) => (
            <li key={each.id}>
              <Link
                to={screen === 'frame' ? paths.frame(each.id) : paths.weigh(each.id)}
                aria-current={each.id === photo?.id ? 'page' : undefined}
                className="grid grid-cols-[3.5rem_1fr] gap-2.5 rounded-lg border-l-[3px] border-transparent p-1.5 hover:bg-field aria-[current]:border-navy aria-[current]:bg-wash"
              >
                <img
                  loading="lazy"
                  src={urls.thumbnail(each)}
                  alt=""
                  className="h-10 w-14 rounded-sm object-cover"
                />
                <div className="min-w-0">
                  <p className="truncate text-body font-semibold" title={each.name}>
                    {each.name}
                  </p>
                  <p className="truncate text-tiny text-soft">
                    {`${standingWords(each)}, ${each.aim.place.density}×`}
                  </p>
                  <Weight photo={each} />
                </div>
              </Link>
            </li>
          ))}
        </ul>
      </Titled>
    </nav>
  )
}

function Weight({ photo }: { photo: Photo }) {
  const limit = photo.aim.limit_bytes
  if (!photo.pick) {
    const aim = limit === null ? aimWords(photo.aim) : `limit ${limitWords(limit)}`
    return <p className="text-tiny text-soft">{aim}</p>
  }
  const isOver = !photo.pick.meets_aim
  if (limit === null) {
    return (
      <p className={`num text-tiny ${isOver ? 'font-semibold text-over' : 'text-soft'}`}>
        {sizeWords(photo.pick.size_bytes)}
      </p>
    )
  }
  return (
    <>
      <p className={`num text-tiny ${isOver ? 'font-semibold text-over' : 'text-soft'}`}>
        {shareWords(photo.pick.size_bytes, limit)}
        {isOver ? ', over' : ''}
      </p>
      <Gauge share={photo.pick.size_bytes / limit} isOver={isOver} className="mt-1" />
    </>
  )
}
