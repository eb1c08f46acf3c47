import { useHotkeys } from 'react-hotkeys-hook'
import { Link, useSearchParams } from 'react-router'

import { api, type Page } from '@/api/client'
import { urls } from '@/api/urls'
import { useDelivery } from '@/api/delivery'
import { useTurns } from '@/api/turns'
import { useAct, usePages, usePhotoAct, useWeighing } from '@/api/queries'
import { Button, buttonClass } from '@/ui/button'
import { Gauge } from '@/ui/gauge'
import { UNLESS_TYPING } from '@/ui/keys'
import { exactWords, shareWords, sizeWords } from '@/words'

import { useAdding } from './adding'
import { KeysDialog } from './keys-dialog'
import { nextPhoto, paths, type Screen, SCREEN_NAMES, useWhere } from './where'

/** The product, its screens, undo and redo, and the page's weight. */
export function Header() {
  const { screen, page, photo } = useWhere()
  const { dropzone } = useAdding()
  const next = photo ?? nextPhoto(page)
  const isAllTaken = screen === 'page' && (page?.photos.every(({ pick }) => pick) ?? false)
  return (
    <header className="flex min-h-13 items-center gap-4 border-b border-line bg-sheet px-4 narrow:flex-wrap narrow:gap-y-2 narrow:py-2">
      <h1 className="flex items-center gap-2 text-lead font-semibold">
        <svg viewBox="0 0 20 20" className="size-5 fill-none stroke-ink stroke-2" aria-hidden>
          <path d="M2 2h16v16H2zM2 8h16" />
        </svg>
        Lean Parcel
      </h1>
      <nav aria-label="Screens" className="flex self-stretch narrow:self-auto">
        <ScreenLink screen="page" now={screen} to={page ? paths.page(page.id) : '/'} />
        <ScreenLink screen="frame" now={screen} to={next && paths.frame(next.id)} />
        <ScreenLink screen="weigh" now={screen} to={next && paths.weigh(next.id)} />
        <ScreenLink screen="pack" now={screen} to={page && paths.pack(page.id)} />
      </nav>
      <div className="ml-auto flex items-center gap-4 narrow:ml-0 narrow:flex-wrap narrow:gap-2">
        {photo ? <PhotoSteps photoId={photo.id} /> : <PageSteps />}
        {page && <Budget page={page} />}
        <input {...dropzone.getInputProps()} aria-label="Photo files" />
        <Button look={next || screen === 'pack' ? 'plain' : 'main'} onClick={dropzone.open}>
          Add photos
        </Button>
        <KeysDialog />
        {screen === 'pack' && page && <DownloadAll pageId={page.id} />}
        {next && screen !== 'pack' && screen !== 'weigh' && (
          <Link
            className={buttonClass('main')}
            to={isAllTaken ? paths.pack(page?.id ?? 0) : paths.weigh(next.id)}
          >
            {mainWords(screen, isAllTaken)}
          </Link>
        )}
      </div>
    </header>
  )
}

function mainWords(screen: Screen, isAllTaken: boolean): string {
  if (screen === 'frame') return 'Weigh it'
  return isAllTaken ? 'Pack the page' : 'Weigh what is left'
}

/** Everything that is handed over of the page, once all of it is ready. */
function DownloadAll({ pageId }: { pageId: number }) {
  const delivery = useDelivery(pageId).data
  const isReady = delivery?.running === 0 && delivery.photos.some(({ code }) => code)
  return isReady ? (
    <a className={buttonClass('main')} href={urls.deliveryZip(pageId)} download>
      Download all
    </a>
  ) : (
    <Button look="main" disabled hint="What is taken is still being made, or nothing is">
      Download all
    </Button>
  )
}

function ScreenLink({ screen, now, to }: { screen: Screen; now: Screen; to: string | undefined }) {
  const look = 'border-b-2 px-3 py-4 font-semibold'
  if (!to) {
    return (
      <span aria-disabled className={`${look} border-transparent text-soft/80`}>
        {SCREEN_NAMES[screen]}
      </span>
    )
  }
  return (
    <Link
      to={to}
      aria-current={screen === now ? 'page' : undefined}
      className={`${look} border-transparent text-soft hover:text-ink aria-[current]:border-navy aria-[current]:text-ink`}
    >
      {SCREEN_NAMES[screen]}
    </Link>
  )
}

function Budget({ page }: { page: Page }) {
  const { fetched_bytes, left_bytes } = page.totals
  const isOver = left_bytes !== null && left_bytes < 0
  return (
    <div className="w-56" title={exactWords(fetched_bytes)}>
      <p className="flex justify-between gap-2 text-small">
        <span className="truncate">{page.name}</span>
        <span className={`num shrink-0 ${isOver ? 'font-semibold text-over' : 'text-soft'}`}>
          {page.budget_bytes === null
            ? sizeWords(fetched_bytes)
            : shareWords(fetched_bytes, page.budget_bytes)}
          {isOver && ', over'}
        </span>
      </p>
      {page.budget_bytes !== null && (
        <Gauge share={fetched_bytes / page.budget_bytes} isOver={isOver} className="mt-1" />
      )}
    </div>
  )
}

/** Undo and redo of what was done to the pages. */
function PageSteps() {
  const pages = usePages().data
  const act = useAct()
  return (
    <Steps
      undoWords={pages?.undo_words ?? null}
      redoWords={pages?.redo_words ?? null}
      onUndo={() => act.mutate(api.undoOnPages)}
      onRedo={() => act.mutate(api.redoOnPages)}
    />
  )
}

/** Undo and redo of what was done to a photo. */
function PhotoSteps({ photoId }: { photoId: number }) {
  const weighing = useWeighing(photoId).data
  const act = usePhotoAct(photoId)
  const [params, setParams] = useSearchParams()
  const show = (encodeId: number) =>
    setParams({ ...Object.fromEntries(params), candidate: String(encodeId) }, { replace: true })
  const turns = useTurns(photoId, Number(params.get('candidate')), show)
  return (
    <Steps
      undoWords={turns.back ? 'the knob' : weighing?.can_undo ? 'the last step' : null}
      redoWords={turns.forth ? 'the knob' : weighing?.can_redo ? 'the next step' : null}
      onUndo={turns.back ?? (() => act.mutate(() => api.undo(photoId)))}
      onRedo={turns.forth ?? (() => act.mutate(() => api.redo(photoId)))}
    />
  )
}

type StepsProps = {
  undoWords: string | null
  redoWords: string | null
  onUndo: () => void
  onRedo: () => void
}

function Steps({ undoWords, redoWords, onUndo, onRedo }: StepsProps) {
  // Keys may be faster than the page: the server knows whether there is a step.
  useHotkeys('mod+z', onUndo, UNLESS_TYPING)
  useHotkeys('mod+shift+z', onRedo, UNLESS_TYPING)
  return (
    <div className="flex gap-1.5" role="group" aria-label="Steps">
      <Button
        disabled={undoWords === null}
        hint={undoWords === null ? 'Nothing to undo' : `Undo: ${undoWords} (Ctrl+Z)`}
        onClick={onUndo}
      >
        Undo
      </Button>
      <Button
        disabled={redoWords === null}
        hint={redoWords === null ? 'Nothing to redo' : `Redo: ${redoWords} (Ctrl+Shift+Z)`}
        onClick={onRedo}
      >
        Redo
      </Button>
    </div>
  )
}
