import { DndContext } from '@dnd-kit/core'
import { useState } from 'react'

import type { Page } from '@/api/client'
import { useBatch } from '@/api/many'
import { Button } from '@/ui/button'
import { useAdding } from '@/shell/adding'
import { PageRail } from '@/shell/rails/page-rail'
import { useWhere } from '@/shell/where'

import { Band } from './band'
import { BatchNotice } from './batch-notice'
import { PhotoTable } from './rows/photo-table'
import { SelectionBar } from './rows/selection-bar'
import { useMoving } from './rows/use-moving'
import { useSelection } from './rows/use-selection'
import { FolderButton } from './sections/folder-button'
import { Library } from './sections/library'
import { PageSettings } from './settings/page-settings'
import { Totals } from './totals'
import { Treatments } from './treatments/treatments'

/** What is open beside the photos. */
export type Side = 'library' | 'treatments' | null

/** Page: its photos, what each weighs, and where the bytes go. */
export function PhotosScreen() {
  const { pages, page, isLoaded } = useWhere()
  const [side, setSide] = useState<Side>(null)
  const { context, order } = useMoving(page)
  const selection = useSelection(order)
  const batch = useBatch(page?.id)
  const openLibrary = () => setSide('library')
  const openTreatments = () => setSide('treatments')
  const close = () => setSide(null)
  return (
    <DndContext {...context}>
      <div
        className={`grid min-h-0 narrow:block ${side ? 'grid-cols-[13.25rem_minmax(0,1fr)_18.5rem]' : 'grid-cols-[13.25rem_minmax(0,1fr)]'}`}
      >
        <PageRail pages={pages} page={page} />
        <main
          aria-busy={!isLoaded}
          className="@container relative flex min-h-0 flex-col gap-3 overflow-y-auto px-4.5 py-4"
        >
          {page && page.photos.length > 0 && (
            <>
              <Band page={page} side={side} onTreatments={openTreatments} />
              {batch?.words ? <BatchNotice page={page} batch={batch} /> : <Totals page={page} />}
              {selection.ids.length > 0 ? (
                <SelectionBar {...{ page, pages, selection }} onTreatments={openTreatments} />
              ) : (
                <PageSettings page={page} />
              )}
              <PhotoTable {...{ page, pages, order, selection }} />
              <AddMore side={side} onLibrary={openLibrary} />
            </>
          )}
          {page && page.photos.length === 0 && (
            <Empty page={page} side={side} onLibrary={openLibrary} />
          )}
          {isLoaded && !page && <p className="m-auto text-title">There is no such page.</p>}
        </main>
        {side === 'library' && page && <Library pageId={page.id} onClose={close} />}
        {side === 'treatments' && page && (
          <Treatments page={page} selection={selection} onClose={close} />
        )}
      </div>
    </DndContext>
  )
}

function AddMore({ side, onLibrary }: { side: Side; onLibrary: () => void }) {
  const { dropzone } = useAdding()
  return (
    <div className="flex items-center justify-center gap-1 rounded-lg border border-dashed border-soft/60 py-2 text-soft">
      <span>Drop photos or a folder anywhere, paste one, or</span>
      <Button look="quiet" onClick={dropzone.open}>
        choose files
      </Button>
      <FolderButton look="quiet">choose a folder</FolderButton>
      <Button look="quiet" aria-expanded={side === 'library'} onClick={onLibrary}>
        open the picture library
      </Button>
    </div>
  )
}

type EmptyProps = { page: Page; side: Side; onLibrary: () => void }

function Empty({ page, side, onLibrary }: EmptyProps) {
  const { dropzone } = useAdding()
  return (
    <div className="flex grow flex-col items-center justify-center gap-3 text-center">
      <p className="text-title font-semibold">Drop a photo here.</p>
      <p className="max-w-[46ch] text-soft">
        Lean Parcel finds the best JPEG, PNG, WebP and AVIF for the bytes that it may weigh, and
        shows what each of them costs. “{page.name}” has no photos yet. Nothing leaves this machine.
      </p>
      <div className="flex gap-2">
        <Button look="main" onClick={dropzone.open}>
          Pick photos
        </Button>
        <FolderButton look="plain">Pick a folder</FolderButton>
        <Button aria-expanded={side === 'library'} onClick={onLibrary}>
          Open the picture library
        </Button>
      </div>
    </div>
  )
}
