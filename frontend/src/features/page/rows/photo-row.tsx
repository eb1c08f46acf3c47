import { useSortable } from '@dnd-kit/sortable'
import { CSS } from '@dnd-kit/utilities'
import { type MouseEvent, useState } from 'react'
import { Link, useNavigate } from 'react-router'

import { api, type Page, type Photo, type Terms } from '@/api/client'
import { urls } from '@/api/urls'
import { useAct, usePlaces, useTerms } from '@/api/queries'
import { OwnMark } from '@/shell/own-mark'
import { Button } from '@/ui/button'
import { dropId } from '@/shell/rails/drop-id'
import { paths } from '@/shell/where'
import { NameField } from '@/ui/fields/name-field'
import { FormatMark } from '@/ui/format-mark'
import { Gauge } from '@/ui/gauge'
import { Menu } from '@/ui/menu'
import {
  exactWords,
  formatsWords,
  heldWords,
  limitWords,
  looksWords,
  pixelWords,
  placeNameOf,
  sizeWords,
  standingWords,
} from '@/words'

import { Looks } from './looks'
import { LAST } from './use-moving'
import type { Selection } from './use-selection'

type Props = { photo: Photo; page: Page; pages: Page[]; index: number; selection: Selection }

/** A photo of the page: where it stands, what was taken, and how that looks. */
export function PhotoRow({ photo, page, pages, index, selection }: Props) {
  const [isNaming, setIsNaming] = useState(false)
  const places = usePlaces().data?.places ?? []
  const terms = useTerms()
  const act = useAct()
  const { setNodeRef, attributes, listeners, transform, transition, isDragging } = useSortable({
    id: dropId.photo(photo.id),
  })
  const limit = photo.aim.limit_bytes
  const isOver = photo.pick !== null && !photo.pick.meets_aim
  const isSelected = selection.has(photo.id)
  return (
    <tr
      ref={setNodeRef}
      data-index={index}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      className={`h-16 border-b border-line last:border-0 [&>td]:px-2 [&>td]:py-1.5 ${isDragging ? 'relative z-10 bg-wash' : isSelected ? 'bg-wash' : ''}`}
      onMouseDown={(event) => event.shiftKey && event.preventDefault()}
      onClick={(event) => {
        if (isOfRow(event)) selection.click(photo.id, event)
      }}
    >
      <td>
        <div className="flex items-center gap-1.5">
          <input
            type="checkbox"
            aria-label={`Select ${photo.name}`}
            className="accent-navy"
            checked={isSelected}
            onChange={() => undefined}
            onClick={(event) => selection.toggle(photo.id, event.shiftKey)}
          />
          <button
            type="button"
            {...attributes}
            {...listeners}
            aria-label={`Move ${photo.name}`}
            className="cursor-grab rounded-sm px-2 py-2 hover:bg-hair"
          >
            <svg viewBox="0 0 8 16" className="h-4 w-2 fill-soft" aria-hidden>
              <path d="M0 2h2v2H0zM6 2h2v2H6zM0 7h2v2H0zM6 7h2v2H6zM0 12h2v2H0zM6 12h2v2H6z" />
            </svg>
          </button>
          <Link to={paths.frame(photo.id)} aria-label={`Frame ${photo.name}`}>
            <img
              src={urls.thumbnail(photo)}
              alt=""
              className="h-12 w-19 rounded-sm object-cover @max-4xl:w-13"
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
              if (name) act.mutate(() => api.changePhoto(photo.id, { name }))
            }}
          />
        ) : (
          <Link
            to={paths.weigh(photo.id)}
            className="block truncate py-1 font-semibold hover:underline"
            title={photo.name}
          >
            {photo.name}
          </Link>
        )}
        <p className="num text-tiny text-soft">
          <span className="whitespace-nowrap">{pixelWords(photo.source)},</span>{' '}
          <span className="whitespace-nowrap">{sizeWords(photo.source.size_bytes)}</span>
        </p>
        {OTHERS.some((name) => photo.own.includes(name)) && (
          <p className="flex items-center gap-1 text-tiny text-soft">
            {ownWords(photo, terms.formats)}
            <OwnMark page={page} photo={photo} names={OTHERS} />
          </p>
        )}
        {heldWords(photo.aim) && (
          <p className="flex items-center gap-1 text-tiny text-soft">
            <span className="truncate" title={heldWords(photo.aim)}>
              Held: {heldWords(photo.aim)}
            </span>
            <Button
              look="quiet"
              className="py-0 text-tiny"
              aria-label={`Release the knobs of ${photo.name}`}
              onClick={() => act.mutate(() => api.changeAim(photo.id, { held: {} }))}
            >
              Release
            </Button>
          </p>
        )}
        {photo.treatment && (
          <p className="truncate text-tiny leading-tight text-soft" title={photo.treatment}>
            {photo.is_exception ? (
              <b className="font-semibold text-ink">Exception to {photo.treatment}</b>
            ) : (
              photo.treatment
            )}
          </p>
        )}
      </td>
      <td>
        <div className="flex items-center justify-between gap-1">
          <div className="min-w-0">
            <p className="truncate">
              {placeNameOf(photo.aim.place, places) ?? photo.aim.place.size}
            </p>
            <p className="num text-tiny whitespace-nowrap text-soft">
              {standingWords(photo).replace(' px', '')} at {photo.aim.place.density}×
            </p>
          </div>
          <OwnMark page={page} photo={photo} names={PLACE} />
        </div>
      </td>
      <td>
        <div className="flex items-center justify-between gap-1">
          <div className="min-w-0">
            <p className="num">{limit === null ? 'any size' : limitWords(limit)}</p>
            <p className="truncate text-tiny text-soft">
              {looksWords(photo.aim.likeness, terms.likeness_levels)}
            </p>
          </div>
          <OwnMark page={page} photo={photo} names={AIM} />
        </div>
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
        {limit !== null && <Gauge share={(photo.pick?.size_bytes ?? 0) / limit} isOver={isOver} />}
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

const PLACE = ['size', 'density'] as const
const AIM = ['limit_bytes', 'likeness'] as const
const OTHERS = ['formats', 'metadata'] as const

/** What a photo has of its own beside size and aim. */
function ownWords({ own, aim }: Photo, terms: Terms['formats']): string {
  const formats = own.includes('formats') ? [formatsWords(aim.formats, terms)] : []
  const metadata = own.includes('metadata') ? ['own metadata'] : []
  return [...formats, ...metadata].join(', ')
}

/** Whether a click is on the row itself, and not on something in it that does an act of its own. */
function isOfRow(event: MouseEvent<HTMLElement>): boolean {
  const at = event.target
  return at instanceof Element && !at.closest('a, button, input, select, form, [role=menu]')
}

type MenuProps = Omit<Props, 'selection'> & { onRename: () => void }

function RowMenu({ photo, page, pages, index, onRename }: MenuProps) {
  const navigate = useNavigate()
  const act = useAct()
  const moveTo = (page_id: number, position: number) =>
    act.mutate(() => api.changePhoto(photo.id, { page_id, position }))
  return (
    <Menu
      label={`More for ${photo.name}`}
      items={[
        { text: 'Frame', onSelect: () => void navigate(paths.frame(photo.id)) },
        { text: 'Weigh', onSelect: () => void navigate(paths.weigh(photo.id)) },
        { text: 'Rename', onSelect: onRename },
        {
          text: `Settings of ${page.name} as this photo`,
          hint: 'Size, at most, looks, formats and metadata, for all that follow the page',
          onSelect: () => act.mutate(() => api.pageAsPhoto(photo.id)),
        },
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
        { text: 'Remove', onSelect: () => act.mutate(() => api.removePhoto(photo.id)) },
      ]}
    />
  )
}
