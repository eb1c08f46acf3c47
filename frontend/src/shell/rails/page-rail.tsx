import { useDroppable } from '@dnd-kit/core'
import { useState } from 'react'
import { Link, useNavigate } from 'react-router'

import { api, type Page } from '@/api/client'
import { useAct } from '@/api/queries'
import { Button } from '@/ui/button'
import { NameField } from '@/ui/fields/name-field'
import { useOneStop } from '@/ui/hooks/use-one-stop'
import { Menu } from '@/ui/menu'
import { Titled } from '@/ui/titled'
import { shareWords, sizeWords } from '@/words'

import { paths, useWhere } from '../where'
import { dropId } from './drop-id'
import { RoomSection } from './room-section'

type Props = { pages: Page[]; page: Page | undefined }

/** All pages with what they weigh; a photo can be dropped on one. */
export function PageRail({ pages, page }: Props) {
  const navigate = useNavigate()
  const act = useAct<{ id: number }>()
  const [isNaming, setIsNaming] = useState(false)
  const list = useOneStop<HTMLUListElement>()
  const onNamed = (name: string | null) => {
    setIsNaming(false)
    if (name)
      void act
        .mutateAsync(() => api.addPage(name))
        .then(
          ({ id }) => navigate(paths.page(id)),
          () => undefined,
        )
  }
  return (
    <nav
      aria-label="Pages"
      className="flex min-h-0 flex-col justify-between gap-4 overflow-y-auto border-r border-line bg-sheet px-2 py-3 narrow:max-h-44 narrow:border-r-0 narrow:border-b"
    >
      <Titled
        title="Pages"
        beside={<span className="num text-tiny text-soft">{pages.length}</span>}
      >
        <ul ref={list} className="space-y-0.5">
          {pages.map((each) => (
            <PageItem
              key={each.id}
              page={each}
              isCurrent={each.id === page?.id}
              isOnly={pages.length === 1}
            />
          ))}
        </ul>
        <div className="mt-2 px-1.5">
          {isNaming ? (
            <NameField label="Name of the new page" name="" onDone={onNamed} />
          ) : (
            <Button look="quiet" onClick={() => setIsNaming(true)}>
              New page
            </Button>
          )}
        </div>
      </Titled>
      <RoomSection />
    </nav>
  )
}

function PageItem({
  page,
  isCurrent,
  isOnly,
}: {
  page: Page
  isCurrent: boolean
  isOnly: boolean
}) {
  const navigate = useNavigate()
  const act = useAct()
  const [isNaming, setIsNaming] = useState(false)
  const { screen } = useWhere()
  const { setNodeRef, isOver } = useDroppable({ id: dropId.page(page.id) })
  if (isNaming) {
    return (
      <li className="px-1.5 py-1">
        <NameField
          label={`Name of ${page.name}`}
          name={page.name}
          onDone={(name) => {
            setIsNaming(false)
            if (name) act.mutate(() => api.changePage(page.id, { name }))
          }}
        />
      </li>
    )
  }
  return (
    <li
      ref={setNodeRef}
      className={`flex items-start rounded-lg border-l-[3px] pr-1 ${isCurrent ? 'border-navy bg-wash' : 'border-transparent hover:bg-field'} ${isOver && !isCurrent ? 'outline-2 outline-navy' : ''}`}
    >
      <Link
        to={screen === 'pack' ? paths.pack(page.id) : paths.page(page.id)}
        aria-current={isCurrent ? 'page' : undefined}
        className="min-w-0 grow px-2 py-1.5"
      >
        <p className="truncate font-semibold" title={page.name}>
          {page.name}
        </p>
        <p className="num text-tiny text-soft">{weightWords(page)}</p>
        <p className="text-tiny text-soft">{photoWords(page)}</p>
      </Link>
      <Menu
        label={`More for page ${page.name}`}
        items={[
          { text: 'Rename', onSelect: () => setIsNaming(true) },
          {
            text: page.photos.length ? `Remove with ${photoWords(page)}` : 'Remove',
            isDisabled: isOnly,
            onSelect: () => {
              act.mutate(() => api.removePage(page.id))
              if (isCurrent) void navigate('/')
            },
          },
        ]}
      />
    </li>
  )
}

function photoWords(page: Page): string {
  return page.photos.length === 1 ? '1 photo' : `${page.photos.length} photos`
}

function weightWords(page: Page): string {
  const { fetched_bytes } = page.totals
  return page.budget_bytes === null
    ? sizeWords(fetched_bytes)
    : shareWords(fetched_bytes, page.budget_bytes)
}
