import { Navigate, useParams } from 'react-router'

import type { Photo, Weighing } from '@/api/client'
import { useChanges, usePhotos, useWeighing } from '@/api/queries'
import { Button } from '@/ui/button'
import { Notice } from '@/ui/notice'

import { useAddPhotos } from './add-photos'
import { AimPanel } from './aim-panel'
import { bestSoFar, Candidates } from './candidates'
import { Chart } from './chart'
import { NothingFits } from './nothing-fits'
import { PhotoList } from './photo-list'
import { Samples } from './samples'
import { Stage } from './stage'
import { useLook } from './use-look'

/** Weigh: a photo, its candidates, and what they cost. */
export function WeighScreen() {
  useChanges()
  const photos = usePhotos()
  const photoId = Number(useParams()['photoId']) || undefined
  const adding = useAddPhotos()
  const { dropzone } = adding
  const list = photos.data?.photos ?? []
  const last = list.at(-1)
  const isKnown = list.some((photo) => photo.id === photoId)

  if (last && !photoId) return <Navigate to={`/photos/${last.id}`} replace />
  return (
    <div
      {...dropzone.getRootProps()}
      className="grid h-full min-w-[1024px] grid-cols-[212px_1fr] grid-rows-[52px_auto_1fr] overflow-hidden"
    >
      <header className="col-span-2 flex items-center gap-4 border-b border-line bg-sheet px-4">
        <h1 className="flex items-center gap-2 text-[15px] font-semibold">
          <svg viewBox="0 0 20 20" className="size-5 fill-none stroke-ink stroke-2" aria-hidden>
            <path d="M2 2h16v16H2zM2 8h16" />
          </svg>
          Lean Parcel
        </h1>
        <span className="text-soft">Spend bytes, see damage.</span>
        <span role="status" className="ml-auto text-soft">
          {adding.opening.length > 0 && `Opening ${adding.opening.join(', ')} …`}
        </span>
        <input {...dropzone.getInputProps()} aria-label="Photo files" />
        <Button look={list.length ? 'plain' : 'main'} onClick={dropzone.open}>
          Add photos
        </Button>
      </header>
      <div className="col-span-2">
        {adding.problem && <Notice text={adding.problem} onClose={adding.clearProblem} />}
        {photos.error && <Notice text={photos.error.message} onClose={() => photos.refetch()} />}
      </div>
      <nav
        aria-label="Photos"
        className="flex min-h-0 flex-col gap-4 overflow-y-auto border-r border-line bg-sheet px-2 py-3"
      >
        <Titled title="Photos" count={list.length}>
          <PhotoList photos={list} selectedId={photoId} />
        </Titled>
        <Titled title="Open a demo photo">
          <Samples onOpen={adding.addSample} isBusy={adding.opening.length > 0} />
        </Titled>
      </nav>
      {photoId && isKnown ? (
        <PhotoDesk key={photoId} photoId={photoId} />
      ) : (
        <Empty photos={photos.data?.photos} onPick={dropzone.open} />
      )}
      {dropzone.isDragActive && (
        <div className="pointer-events-none fixed inset-3 flex items-center justify-center rounded-lg border-2 border-dashed border-navy bg-wash/90 text-[17px] font-semibold text-navy">
          Drop photos to weigh them
        </div>
      )}
    </div>
  )
}

type TitledProps = { title: string; count?: number; children: React.ReactNode }

function Titled({ title, count, children }: TitledProps) {
  return (
    <section>
      <h2 className="mx-1.5 mb-2 flex justify-between text-[11px] font-semibold text-soft">
        <span>{title}</span>
        {count ? <span>{count}</span> : null}
      </h2>
      {children}
    </section>
  )
}

function Empty({ photos, onPick }: { photos: Photo[] | undefined; onPick: () => void }) {
  if (!photos) return <main aria-busy className="bg-stage" />
  return (
    <main className="flex flex-col items-center justify-center gap-3 bg-desk text-center">
      <p className="text-[17px] font-semibold">
        {photos.length ? 'There is no such photo.' : 'Drop a photo here.'}
      </p>
      <p className="max-w-[42ch] text-soft">
        Lean Parcel finds the best JPEG, PNG, WebP and AVIF for the bytes that it may weigh, and
        shows what each of them costs. Nothing leaves this machine.
      </p>
      <Button look="main" onClick={onPick}>
        Pick a photo
      </Button>
    </main>
  )
}

function PhotoDesk({ photoId }: { photoId: number }) {
  const weighing = useWeighing(photoId)
  if (weighing.data) return <Desk weighing={weighing.data} />
  return (
    <main aria-busy={!weighing.error} className="flex items-center justify-center bg-stage">
      {weighing.error && <p className="rounded-md bg-sheet p-3">{weighing.error.message}</p>}
    </main>
  )
}

/** While nothing has ended yet, the stage shows what came first. */
const FORMATS_BY_SPEED = ['jpeg', 'webp', 'avif', 'png'] as const

function Desk({ weighing }: { weighing: Weighing }) {
  const [look, setLook] = useLook()
  const byId = new Map(weighing.encodes.map((encode) => [encode.id, encode]))
  const known = (id: number | null) => byId.get(id ?? 0)
  const candidates = weighing.candidate_ids.map(known).filter((encode) => encode !== undefined)
  const wanted = known(look.candidateId) ?? known(weighing.pick_id)
  const soFar = FORMATS_BY_SPEED.map((format) => bestSoFar(weighing, format)).find(Boolean)
  const selected = wanted ?? candidates[0] ?? soFar
  const rows = wanted && !candidates.includes(wanted) ? [...candidates, wanted] : candidates
  const best = candidates[0]
  const limit = weighing.search.limit_bytes
  return (
    <div className="grid min-h-0 min-w-0 grid-cols-[1fr_296px]">
      <main className="grid min-h-0 min-w-0 grid-rows-[1fr_236px]">
        {weighing.framing ? (
          <Stage
            framing={weighing.framing}
            candidate={selected}
            background={weighing.framing.is_transparent ? weighing.aim.background : 'none'}
          />
        ) : (
          <p role="status" className="flex items-center justify-center bg-stage text-white">
            {weighing.search.state === 'failed' ? 'This photo could not be framed.' : 'Framing …'}
          </p>
        )}
        <Chart
          encodes={weighing.encodes}
          candidateIds={weighing.candidate_ids}
          selectedId={selected?.id}
          limitBytes={limit}
        />
      </main>
      <aside
        aria-label="Weighing"
        className="min-h-0 overflow-y-auto border-l border-line bg-sheet"
      >
        <AimPanel weighing={weighing} />
        {weighing.search.state === 'done' && best && best.size_bytes > limit && (
          <NothingFits weighing={weighing} smallest={best} />
        )}
        <Candidates
          weighing={weighing}
          candidates={rows}
          selected={selected}
          onSelect={(candidateId) => setLook({ candidateId })}
        />
      </aside>
    </div>
  )
}
