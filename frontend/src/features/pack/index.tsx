import { useState } from 'react'

import type { Delivery, Page } from '@/api/client'
import { useDelivery } from '@/api/delivery'
import { PageScreen } from '@/shell/page-screen'
import { countWords } from '@/words'

import { CodePanel } from './code-panel'
import { Files } from './files/files'
import { HandOver } from './hand-over'
import { References } from './references/references'
import { Standing } from './standing/standing'
import { VariantControls } from './variant-controls'

/** Pack: the files that go out, their names, page code, and how they stand in a page. */
export default function PackScreen() {
  return <PageScreen content={Packing} />
}

function Packing({ page }: { page: Page }) {
  const { data: delivery, error } = useDelivery(page.id)
  const [chosenId, setChosenId] = useState<number | null>(null)
  if (error) {
    return (
      <p role="alert" className="p-4.5 text-over">
        {error.message}
      </p>
    )
  }
  if (!delivery) return null
  const taken = delivery.photos.filter(({ files }) => files.length > 0)
  const chosen = taken.find(({ id }) => id === chosenId) ?? taken[0]
  return (
    <div className="grid h-full min-h-0 grid-cols-[minmax(0,1fr)] grid-rows-[auto_minmax(0,1fr)_auto]">
      <Top page={page} delivery={delivery} />
      <div className="grid min-h-0 grid-cols-[minmax(0,1.65fr)_minmax(0,1fr)] gap-3 px-4 pb-3">
        <Files page={page} delivery={delivery} chosenId={chosen?.id} onChoose={setChosenId} />
        <div className="grid min-h-0 min-w-0 grid-cols-[minmax(0,1fr)] grid-rows-[auto_minmax(0,1fr)] gap-3">
          <CodePanel delivery={delivery} photo={chosen} />
          <References pageId={page.id} isReady={delivery.running === 0 && taken.length > 0} />
        </div>
      </div>
      <Standing delivery={delivery} page={page} />
    </div>
  )
}

function Top({ page, delivery }: { page: Page; delivery: Delivery }) {
  const files = delivery.photos.reduce((count, photo) => count + photo.files.length, 0)
  const taken = delivery.photos.filter((photo) => photo.files.length > 0)
  const left = delivery.photos.length - taken.length
  const missing = taken.filter(({ alt_text }) => alt_text === null).length
  return (
    <div className="flex flex-wrap items-end justify-between gap-x-4 gap-y-2 px-4 pt-3 pb-2.5">
      <div>
        <h2 className="text-lead font-semibold">What goes out</h2>
        <p role="status" className="text-soft">
          {countWords(files, 'file')} for {countWords(taken.length, 'photo')}.{' '}
          {delivery.running > 0
            ? `${countWords(delivery.running, 'file')} being made.`
            : left > 0
              ? `Nothing is taken of ${countWords(left, 'photo')}.`
              : 'The originals stay as they are.'}{' '}
          {missing > 0 && (
            <b className="font-semibold text-ink">
              {countWords(missing, 'alternative text')} {missing === 1 ? 'is' : 'are'} missing.
            </b>
          )}
        </p>
      </div>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1.5">
        <VariantControls photos={delivery.photos} page={page} />
        <HandOver delivery={delivery} isReady={delivery.running === 0 && taken.length > 0} />
      </div>
    </div>
  )
}
