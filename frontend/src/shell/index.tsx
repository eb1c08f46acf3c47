import { useMutationState } from '@tanstack/react-query'
import { Suspense, useState } from 'react'
import { Outlet, useLocation } from 'react-router'

import { Refused } from '@/api/client'
import { useChanges } from '@/api/changes/refresh'
import { usePages, useTerms } from '@/api/queries'
import { Notice } from '@/ui/notice'
import { useIsTold } from '@/ui/fields/told'

import { AddingContext, useAddPhotos } from './adding'
import { Boundary } from './boundary'
import { Header } from './header'
import { useKeptFocus } from './kept-focus'
import { UploadStrip } from './upload-strip'
import { useTitle } from './where'

/** What every screen has: the way to the others, adding photos, undo, and what went wrong. */
export function Shell() {
  const isLost = useChanges()
  useKeptFocus()
  const { pathname } = useLocation()
  const pages = usePages()
  const terms = useTerms()
  const adding = useAddPhotos()
  return (
    <AddingContext value={adding}>
      <title>{useTitle()}</title>
      <button
        type="button"
        className="sr-only focus:not-sr-only focus:fixed focus:top-1 focus:left-1 focus:z-50 focus:bg-field focus:px-3 focus:py-2"
        onClick={toTheScreen}
      >
        To what is on the screen
      </button>
      <div
        {...adding.dropzone.getRootProps()}
        className="grid h-full grid-cols-[minmax(0,1fr)] grid-rows-[auto_auto_minmax(0,1fr)] overflow-hidden narrow:block narrow:h-auto narrow:overflow-visible"
      >
        <Header />
        <div>
          {isLost && (
            <p role="status" className="border-b border-line bg-field px-4 py-2">
              Not connected: what you see may be old. The server is asked again and again until it
              answers.
            </p>
          )}
          {pages.error && !isLost && (
            <Notice
              text={pages.error.message}
              action="Try again"
              onClose={() => void pages.refetch()}
            />
          )}
          {terms.is_read_only && (
            <p role="status" className="border-b border-line bg-field px-4 py-2">
              This workspace can only be read: look at everything, save files; nothing is changed.
            </p>
          )}
          <LastProblem />
          <UploadStrip />
        </div>
        <Boundary name={pathname}>
          <Suspense fallback={<main aria-busy className="bg-desk" />}>
            <Outlet />
          </Suspense>
        </Boundary>
        {adding.dropzone.isDragActive && (
          <div className="pointer-events-none fixed inset-3 z-20 flex items-center justify-center rounded-lg border-2 border-dashed border-navy bg-wash/90 text-title font-semibold text-navy">
            Drop photos or a folder
          </div>
        )}
      </div>
    </AddingContext>
  )
}

/** Past the header and the rail. */
function toTheScreen() {
  const main = document.querySelector('main')
  if (!main) return
  main.tabIndex = -1
  main.focus()
}

/** Refusals that go without saying. */
const QUIET = ['nothing_to_undo', 'nothing_to_redo']

/** Why the last act was refused, until another one is tried. */
function LastProblem() {
  const [closedAt, setClosedAt] = useState(0)
  const last = useMutationState({ select: ({ state }) => state }).at(-1)
  const isTold = useIsTold(last?.error ?? null)
  if (isTold || last?.status !== 'error' || last.submittedAt <= closedAt) return null
  if (last.error instanceof Refused && QUIET.includes(last.error.code)) return null
  return <Notice text={last.error?.message ?? ''} onClose={() => setClosedAt(last.submittedAt)} />
}
