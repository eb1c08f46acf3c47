import { useSortable } from '@dnd-kit/sortable'
import { CSS } from '@dnd-kit/utilities'
import { useState } from 'react'
import { Link, useNavigate } from 'react-router'

import { type Page, type Photo, urls } from '@/api/client'
import { usePageActs, usePlaces } from '@/api/queries'
import { paths } from '@/shell/where'
import { FormatMark } from '@/ui/format-mark'
import { Gauge } from '@/ui/gauge'
import { Menu } from '@/ui/menu'
import { NameField } from '@/ui/fields/name-field'
import { aimWords, exactWords, pixelWords, placeNameOf, sizeWords } from '@/words'

import { dropId, LAST } from './use-moving'

type Props = { photo: Photo; page: Page; pages: Page[]; index: number }

/** A photo of the page: where it stands, what was taken, and how that looks. */
export function PhotoRow({ photo, page, pages, index }: Props) {
  const [isNaming, setIsNaming] = useState(false)
  const places = usePlaces().data?.places ?? []
  const { changePhoto } = usePageActs()
  const { setNodeRef, attributes, listeners, transform, transition, isDragging } = useSortable({
    id: dropId.photo(photo.id),
  })
  const limit = photo.aim.limit_bytes
  const isOver = photo.pick !== null && !photo.pick.meets_aim
  return (
    <tr
      ref={setNodeRef}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      className={`border-b border-line last:border-0 [&>td]:px-2 [&>td]:py-1.5 ${isDragging ? 'relative z-10 bg-wash' : ''}`}
    >
      <td>
        <div className="flex items-center gap-1.5">
          <button
            type="button"
            {...attributes}
            {...listeners}
            aria-label={`Move ${photo.name}`}
            className="cursor-grab rounded-sm px-0.5 py-2 hover:bg-hair"
          >
            <svg viewBox="0 0 8 16" className="h-4 w-2 fill-soft" aria-hidden>
              <path d="M0 2h2v2H0zM6 2h2v2H6zM0 7h2v2H0zM6 7h2v2H6zM0 12h2v2H0zM6 12h2v2H6z" />
            </svg>
          </button>
          <Link to={paths.frame(photo.id)} aria-label={`Frame ${photo.name}`}>
            <img
              src={urls.thumbnail(photo)}
              alt=""
              className="h-[50px] w-[76px] rounded-sm object-cover"
            />
          </Link>
        </div>
      </td>
      <td>
        {isNaming ? (
          <NameField
            label={`Name of ${photo.name}`}
            name={photo.name}
            onDone={(name) => {
              setIsNaming(false)
              if (name) changePhoto.mutate({ id: photo.id, name })
            }}
          />
        ) : (
          <Link
            to={paths.weigh(photo.id)}
            className="block truncate font-semibold hover:underline"
            title={photo.name}
          >
            {photo.name}
          </Link>
        )}
        <p className="num text-[11px] text-soft">
          <span className="whitespace-nowrap">{pixelWords(photo.source)},</span>{' '}
          <span className="whitespace-nowrap">{sizeWords(photo.source.size_bytes)}</span>
        </p>
      </td>
      <td>
        <p className="truncate">{placeNameOf(photo.aim.place, places)}</p>
        <p className="num text-[11px] text-soft">{pixelWords(photo)} px</p>
      </td>
      <td>
        <p className={photo.aim.likeness === null ? 'num' : ''}>{aimWords(photo.aim)}</p>
        <p className="text-[11px] text-soft">{photo.aim.likeness === null ? 'at most' : 'or more'}</p>
      </td>
      <td className="text-right">
        {photo.pick ? (
          <p
            className={`num flex items-center justify-end gap-1.5 whitespace-nowrap ${isOver ? 'font-semibold text-over' : ''}`}
            title={`${photo.pick.name}, ${exactWords(photo.pick.size_bytes)}`}
          >
            <FormatMark format={photo.pick.settings.format} />
            <span className="sr-only">{photo.pick.name}</span>
            {sizeWords(photo.pick.size_bytes)}
          </p>
        ) : (
          <p className="text-soft">none yet</p>
        )}
      </td>
      <td className="@max-4xl:hidden">
        {photo.aim.likeness === null && (
          <Gauge share={(photo.pick?.size_bytes ?? 0) / limit} isOver={isOver} />
        )}
      </td>
      <td>
        <Looks photo={photo} />
      </td>
      <td className="text-right">
        <RowMenu {...{ photo, page, pages, index }} onRename={() => setIsNaming(true)} />
      </td>
    </tr>
  )
}

function Looks({ photo }: { photo: Photo }) {
  const { pick, best } = photo
  const isForBytes = photo.aim.likeness === null
  const over = pick && isForBytes ? pick.size_bytes - photo.aim.limit_bytes : 0
  if (pick) {
    return (
      <>
        <p>{capital(pick.likeness_words)}</p>
        <p className={`text-[11px] ${over > 0 ? 'text-over' : 'text-soft'}`}>
          {over > 0 ? `${sizeWords(over)} over its limit` : `likeness ${pick.likeness.toFixed(1)}`}
        </p>
      </>
    )
  }
  switch (photo.search_state) {
    case 'running':
      return <p className="text-soft">Weighing …</p>
    case 'failed':
      return <p className="text-over">Could not be weighed</p>
    case 'stopped':
      return <p className="text-soft">Not weighed yet</p>
    case 'done':
      if (!best) return <p className="text-over">Nothing meets {aimWords(photo.aim)}</p>
      return (
        <>
          <p>Ready to take</p>
          <p className="text-[11px] text-soft">
            {best.name}, {sizeWords(best.size_bytes)}, {best.likeness_words}
          </p>
        </>
      )
  }
}

function capital(words: string): string {
  return words.charAt(0).toUpperCase() + words.slice(1)
}

function RowMenu({ photo, page, pages, index, onRename }: Props & { onRename: () => void }) {
  const navigate = useNavigate()
  const { changePhoto, removePhoto } = usePageActs()
  const moveTo = (page_id: number, position: number) =>
    changePhoto.mutate({ id: photo.id, page_id, position })
  return (
    <Menu
      label={`More for ${photo.name}`}
      items={[
        { text: 'Frame', onSelect: () => void navigate(paths.frame(photo.id)) },
        { text: 'Weigh', onSelect: () => void navigate(paths.weigh(photo.id)) },
        { text: 'Rename', onSelect: onRename },
        'line',
        {
          text: 'Move up',
          isDisabled: index === 0,
          onSelect: () => moveTo(page.id, index - 1),
        },
        {
          text: 'Move down',
          isDisabled: index === page.photos.length - 1,
          onSelect: () => moveTo(page.id, index + 1),
        },
        ...pages
          .filter((other) => other.id !== page.id)
          .map((other) => ({
            text: `Move to ${other.name}`,
            onSelect: () => moveTo(other.id, LAST),
          })),
        'line',
        { text: 'Remove', onSelect: () => removePhoto.mutate(photo.id) },
      ]}
    />
  )
}
