import { Link } from 'react-router'

import { api, type Batch, type Page } from '@/api/client'
import { useAct } from '@/api/queries'
import { paths } from '@/shell/where'
import { Button, buttonClass } from '@/ui/button'
import { Gauge } from '@/ui/gauge'
import { countWords, durationWords } from '@/words'

type Props = { page: Page; batch: Batch; hasTable?: boolean }

/** How far a batch is, in a line; its table is a click away. */
export function BatchNotice({ page, batch, hasTable = false }: Props) {
  const act = useAct()
  const wanted = new Set(batch.photo_ids)
  const photos = page.photos.filter(({ id }) => wanted.has(id))
  const ready = photos.filter(({ is_ready, pick }) => is_ready && !pick).map(({ id }) => id)
  return (
    <section
      aria-label="Batch"
      className="flex flex-wrap items-center gap-x-3 gap-y-1 border border-line bg-field px-2.5 py-1.5"
    >
      <p role="status">
        {!hasTable && (
          <>
            <b className="font-semibold">{batchTitle(batch)}</b>:{' '}
          </>
        )}
        <span className="num">
          {batch.ended} of {photos.length}
        </span>{' '}
        weighed
        {batch.state === 'running' && batch.left_s != null && (
          <span className="text-soft">, about {durationWords(batch.left_s)} left</span>
        )}
        {batch.failed > 0 && <span className="text-over">, {batch.failed} failed</span>}
      </p>
      <Gauge
        share={photos.length ? batch.ended / photos.length : 1}
        isOver={false}
        className="w-40"
      />
      {batch.state === 'running' && (
        <Button look="small" onClick={() => act.mutate(() => api.stopBatch(page.id))}>
          Stop
        </Button>
      )}
      {batch.state === 'stopped' && (
        <Button look="small" onClick={() => act.mutate(() => api.resumeBatch(page.id))}>
          Go on
        </Button>
      )}
      {ready.length > 0 && (
        <Button look="small" onClick={() => act.mutate(() => api.takeBest(ready))}>
          Take {ready.length} that {ready.length === 1 ? 'is' : 'are'} ready
        </Button>
      )}
      {!hasTable && (
        <Link className={buttonClass('small')} to={paths.batch(page.id)}>
          Table
        </Link>
      )}
      {batch.state === 'done' && (
        <Button
          look="quiet"
          className="ml-auto"
          aria-label="Close the batch"
          onClick={() => act.mutate(() => api.endBatch(page.id))}
        >
          Close
        </Button>
      )}
    </section>
  )
}

const DOES = { running: 'Weighing', stopped: 'Stopped', done: 'Weighed' }

/** What goes on with a batch, and what it came of. */
export function batchTitle({ state, words, photo_ids }: Batch): string {
  return `${DOES[state]} ${countWords(photo_ids.length, 'photo')}, ${words ?? ''}`
}
