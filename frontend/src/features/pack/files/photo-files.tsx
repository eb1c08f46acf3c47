import { useState } from 'react'
import { Link } from 'react-router'

import { api, type DeliveredPhoto, type Page, type Photo } from '@/api/client'
import { urls } from '@/api/urls'
import { useAct } from '@/api/queries'
import { paths } from '@/shell/where'
import { Button } from '@/ui/button'
import { Field } from '@/ui/fields/field'
import { countWords, exactWords, sizeWords, standingWords } from '@/words'

import { AltText, altWords } from './alt-text'
import { CodeFields } from './code-fields'
import { FileRow } from './file-row'

type Props = {
  page: Page
  photo: DeliveredPhoto
  isChosen: boolean
  onChoose: () => void
}

/** A photo in one row; the chosen one is open, and its page code stands beside. */
export function PhotoFiles({ page, photo, isChosen, onChoose }: Props) {
  const shown = page.photos.find(({ id }) => id === photo.id)
  if (!shown) return null
  if (photo.files.length === 0) {
    return (
      <li className="grid grid-cols-[3.75rem_minmax(0,1fr)_auto] items-center gap-3 border-b border-line border-l-[3px] border-l-transparent px-2.5 py-2">
        <Thumbnail photo={shown} />
        <p className="truncate font-semibold">{photo.name}</p>
        <p className="text-soft">
          Nothing is taken yet.{' '}
          <Link className="text-navy hover:underline" to={paths.weigh(photo.id)}>
            Weigh it
          </Link>
        </p>
      </li>
    )
  }
  return (
    <li
      className={`border-b border-line border-l-[3px] [contain-intrinsic-size:auto_60px] [content-visibility:auto] ${isChosen ? 'border-l-navy bg-wash' : 'border-l-transparent'}`}
    >
      <button
        type="button"
        aria-expanded={isChosen}
        onClick={onChoose}
        className="grid w-full grid-cols-[3.75rem_minmax(0,1fr)_auto] items-center gap-3 px-2.5 py-2 text-left focus-visible:-outline-offset-2"
      >
        <Thumbnail photo={shown} />
        <span className="min-w-0">
          <span className="block truncate font-semibold">{photo.name}</span>
          <span
            className={`block truncate text-small ${photo.alt_text === null ? 'font-semibold' : 'text-soft'}`}
          >
            {altWords(photo.alt_text)}
          </span>
          {photo.reason && (
            <span className="block truncate text-small text-over">
              Over its limit, since {photo.reason}
            </span>
          )}
        </span>
        <span className="num text-right text-small">
          {shown.fetched_bytes !== null && (
            <span className="block" title={exactWords(shown.fetched_bytes)}>
              {sizeWords(shown.fetched_bytes)}
            </span>
          )}
          <span className="block text-soft">{countWords(photo.files.length, 'file')}</span>
        </span>
      </button>
      {isChosen && <Opened page={page} photo={photo} shown={shown} />}
    </li>
  )
}

function Thumbnail({ photo }: { photo: Photo }) {
  return (
    <img
      loading="lazy"
      src={urls.thumbnail(photo)}
      alt=""
      className="h-10 w-15 rounded-sm object-cover"
    />
  )
}

type OpenedProps = { page: Page; photo: DeliveredPhoto; shown: Photo }

function Opened({ page, photo, shown }: OpenedProps) {
  const act = useAct()
  const [isOpen, setIsOpen] = useState(false)
  return (
    <div className="space-y-2 px-2.5 pb-2.5">
      <AltText key={photo.id} photo={photo} />
      <Field
        label="Credit"
        text={photo.credit}
        placeholder="Who is to be named with it"
        onEnter={(credit) =>
          act.mutateAsync(() => api.changeCode([photo.id], { credit: credit.trim() }))
        }
        className="w-80 text-small"
      />
      <table className="w-full border-collapse">
        <caption className="sr-only">Files of {photo.name}</caption>
        <thead className="text-left text-small text-soft [&_th]:font-medium">
          <tr>
            <th>File</th>
            <th className="w-10 text-right">for</th>
            <th className="w-20 text-right">Bytes</th>
            <th className="w-20 text-right">Likeness</th>
            <th className="w-8">
              <span className="sr-only">Save</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {photo.files.map((file) => (
            <FileRow key={`${file.density} ${file.format}`} photoId={photo.id} file={file} />
          ))}
        </tbody>
      </table>
      <p className="flex items-center gap-3 text-small text-soft">
        In its place {standingWords(shown)}
        <Button
          look="quiet"
          className="py-0.5 text-small"
          aria-expanded={isOpen}
          onClick={() => setIsOpen(!isOpen)}
        >
          {isOpen ? 'Less' : 'Loading, sizes, own densities'}
        </Button>
      </p>
      {isOpen && <CodeFields page={page} photo={photo} />}
    </div>
  )
}
