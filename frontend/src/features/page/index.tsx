import { DndContext } from '@dnd-kit/core'
import { useState } from 'react'

import type { Page } from '@/api/client'
import { Button } from '@/ui/button'
import { useAdding } from '@/shell/adding'
import { useWhere } from '@/shell/where'

import { Band } from './band'
import { FolderButton } from './folder-button'
import { Library } from './library'
import { PageRail } from './page-rail'
import { PhotoTable } from './photo-table'
import { Totals } from './totals'
import { useMoving } from './use-moving'

/** Page: its photos, what each weighs, and where the bytes go. */
export function PageScreen() {
  const { pages, page, isLoaded } = useWhere()
  const [isLibraryOpen, setIsLibraryOpen] = useState(false)
  const { context, order } = useMoving(page)
  const openLibrary = () => setIsLibraryOpen(true)
  return (
    <DndContext {...context}>
      <div
        className={`grid min-h-0 ${isLibraryOpen ? 'grid-cols-[212px_minmax(0,1fr)_296px]' : 'grid-cols-[212px_minmax(0,1fr)]'}`}
      >
        <PageRail pages={pages} page={page} />
        <main
          aria-busy={!isLoaded}
          className="@container flex min-h-0 flex-col gap-3 overflow-y-auto px-4.5 py-4"
        >
          {page && page.photos.length > 0 && (
            <>
              <Band page={page} />
              <Totals page={page} />
              <PhotoTable page={page} pages={pages} order={order} />
              <AddMore onLibrary={openLibrary} />
            </>
          )}
          {page && page.photos.length === 0 && <Empty page={page} onLibrary={openLibrary} />}
          {isLoaded && !page && <p className="m-auto text-[17px]">There is no such page.</p>}
        </main>
        {isLibraryOpen && page && (
          <Library pageId={page.id} onClose={() => setIsLibraryOpen(false)} />
        )}
      </div>
    </DndContext>
  )
}

function AddMore({ onLibrary }: { onLibrary: () => void }) {
  const { dropzone } = useAdding()
  return (
    <div className="flex items-center justify-center gap-1 rounded-lg border border-dashed border-soft/60 py-2 text-soft">
      <span>Drop photos or a folder anywhere, paste one, or</span>
      <Button look="quiet" onClick={dropzone.open}>
        choose files
      </Button>
      <FolderButton look="quiet">choose a folder</FolderButton>
      <Button look="quiet" onClick={onLibrary}>
        open the picture library
      </Button>
    </div>
  )
}

function Empty({ page, onLibrary }: { page: Page; onLibrary: () => void }) {
  const { dropzone } = useAdding()
  return (
    <div className="flex grow flex-col items-center justify-center gap-3 text-center">
      <p className="text-[17px] font-semibold">Drop a photo here.</p>
      <p className="max-w-[46ch] text-soft">
        Lean Parcel finds the best JPEG, PNG, WebP and AVIF for the bytes that it may weigh, and
        shows what each of them costs. “{page.name}” has no photos yet. Nothing leaves this machine.
      </p>
      <div className="flex gap-2">
        <Button look="main" onClick={dropzone.open}>
          Pick photos
        </Button>
        <FolderButton look="plain">Pick a folder</FolderButton>
        <Button onClick={onLibrary}>Open the picture library</Button>
      </div>
    </div>
  )
}
