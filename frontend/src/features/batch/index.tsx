import { Link } from 'react-router'

import type { Page } from '@/api/client'
import { useBatch } from '@/api/many'
import { PageScreen } from '@/shell/page-screen'
import { paths } from '@/shell/where'

import { BatchNotice, batchTitle } from '../page/batch-notice'
import { BatchTable } from './table'

/** Batch: what came of photos that were weighed together. */
export default function BatchScreen() {
  return <PageScreen content={Batched} className="space-y-3 overflow-y-auto px-4.5 py-4" />
}

function Batched({ page }: { page: Page }) {
  const batch = useBatch(page.id)
  if (!batch) return null
  const wanted = new Set(batch.photo_ids)
  return (
    <>
      <div className="flex items-start justify-between gap-4">
        <h2 className="text-lead font-semibold">{batch.words ? batchTitle(batch) : 'No batch'}</h2>
        <Link className="text-navy hover:underline" to={paths.page(page.id)}>
          Back to the photos
        </Link>
      </div>
      {batch.words ? (
        <>
          <BatchNotice page={page} batch={batch} hasTable />
          <BatchTable pageId={page.id} photos={page.photos.filter(({ id }) => wanted.has(id))} />
        </>
      ) : (
        <p className="text-soft">
          Select photos on the page and do a treatment, or weigh them again: they become a batch.
        </p>
      )}
    </>
  )
}
