import { useState } from 'react'
import { Link } from 'react-router'

import { type DeliveredPhoto, type Page, urls } from '@/api/client'
import { paths } from '@/shell/where'
import { Button } from '@/ui/button'
import { standingWords } from '@/words'

import { AltText } from './alt-text'
import { CodeFields } from './code-fields'
import { FileRow } from './file-row'

type Props = {
  page: Page
  photo: DeliveredPhoto
  isChosen: boolean
  onChoose: () => void
}

/** A photo and the files that go out of it; the chosen one's page code stands beside. */
export function PhotoFiles({ page, photo, isChosen, onChoose }: Props) {
  const [isOpen, setIsOpen] = useState(false)
  const shown = page.photos.find(({ id }) => id === photo.id)
  return (
    <li
      className={`border-b border-line border-l-[3px] px-2.5 py-2 [contain-intrinsic-size:auto_96px] [content-visibility:auto] ${isChosen ? 'border-l-navy bg-wash' : 'border-l-transparent'}`}
      onFocus={photo.files.length > 0 ? onChoose : undefined}
    >
      <div className="grid grid-cols-[60px_minmax(0,0.7fr)_minmax(0,1.9fr)] gap-3">
        {shown && (
          <button
            type="button"
            aria-pressed={isChosen}
            aria-label={`Page code of ${photo.name}`}
            onClick={onChoose}
            className="self-start"
          >
            <img
              loading="lazy"
              src={urls.thumbnail(shown)}
              alt=""
              className="h-[42px] w-[60px] rounded-sm object-cover"
            />
          </button>
        )}
        <div className="min-w-0">
          <p className="truncate font-semibold" title={photo.old_name}>
            {photo.name}
          </p>
          {shown && <p className="truncate text-tiny text-soft">{standingWords(shown)}</p>}
          <AltText photo={photo} />
          {photo.reason && (
            <p className="line-clamp-2 text-tiny leading-tight text-over">
              Over its limit, since {photo.reason}
            </p>
          )}
        </div>
        {photo.files.length > 0 ? (
          <table className="w-full table-fixed border-collapse self-start">
            <caption className="sr-only">Files of {photo.name}</caption>
            <colgroup>
              <col />
              <col className="w-8" />
              <col className="w-[70px]" />
              <col className="w-11" />
              <col className="w-6" />
            </colgroup>
            <thead className="sr-only">
              <tr>
                <th>File</th>
                <th>Density</th>
                <th>Bytes</th>
                <th>Likeness</th>
                <th>Save</th>
              </tr>
            </thead>
            <tbody>
              {photo.files.map((file) => (
                <FileRow key={`${file.density} ${file.format}`} photoId={photo.id} file={file} />
              ))}
            </tbody>
          </table>
        ) : (
          <p className="text-soft">
            Nothing is taken yet.{' '}
            <Link className="text-navy hover:underline" to={paths.weigh(photo.id)}>
              Weigh it
            </Link>
          </p>
        )}
      </div>
      {photo.files.length > 0 && (
        <div className="pl-[72px]">
          <Button
            look="quiet"
            className="px-0 py-0 text-tiny"
            aria-expanded={isOpen}
            onClick={() => setIsOpen(!isOpen)}
          >
            {isOpen ? 'Less' : 'Loading, sizes, own densities'}
          </Button>
          {isOpen && <CodeFields page={page} photo={photo} />}
        </div>
      )}
    </li>
  )
}
