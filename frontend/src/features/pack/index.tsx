import { Tabs } from 'radix-ui'
import { useState } from 'react'
import { useSearchParams } from 'react-router'

import type { Delivery, Page } from '@/api/client'
import { useDelivery } from '@/api/delivery'
import { PageScreen } from '@/shell/page-screen'
import { TabNames } from '@/ui/tab-names'
import { countWords, sizeWords } from '@/words'

import { CodePanel } from './code-panel'
import { Files } from './files/files'
import { HandOver } from './hand-over'
import { References } from './references/references'
import { Standing } from './standing/standing'

const PARTS = [
  { value: 'files', text: 'Files and page code' },
  { value: 'standing', text: 'Standing in the page' },
  { value: 'references', text: 'Old references' },
]
const PART = 'min-h-0 px-4 py-3 data-[state=inactive]:hidden'

/** Pack: the files that go out, their names, page code, and how they stand in a page. */
export default function PackScreen() {
  return <PageScreen content={Packing} />
}

function Packing({ page }: { page: Page }) {
  const { data: delivery, error } = useDelivery(page.id)
  const [chosenId, setChosenId] = useState<number | null>(null)
  const [params, setParams] = useSearchParams()
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
  const isReady = delivery.running === 0 && taken.length > 0
  const part = PARTS.find(({ value }) => value === params.get('part'))?.value ?? 'files'
  return (
    <Tabs.Root
      value={part}
      onValueChange={(to) => setParams({ part: to }, { replace: true })}
      className="grid h-full min-h-0 grid-cols-[minmax(0,1fr)] grid-rows-[auto_auto_minmax(0,1fr)] narrow:block"
    >
      <div className="flex flex-wrap items-start justify-between gap-x-4 gap-y-2 px-4 pt-3">
        <Top page={page} delivery={delivery} />
        <HandOver delivery={delivery} isReady={isReady} />
      </div>
      <TabNames label="Parts of Pack" tabs={PARTS} />
      <Tabs.Content
        value="files"
        tabIndex={-1}
        className={`${PART} grid grid-cols-[minmax(0,1.5fr)_minmax(0,1fr)] gap-3 narrow:block narrow:space-y-3`}
      >
        <Files page={page} delivery={delivery} chosenId={chosen?.id} onChoose={setChosenId} />
        <CodePanel delivery={delivery} photo={chosen} />
      </Tabs.Content>
      <Tabs.Content value="standing" tabIndex={-1} className="min-h-0 data-[state=inactive]:hidden">
        <Standing delivery={delivery} page={page} />
      </Tabs.Content>
      <Tabs.Content
        value="references"
        tabIndex={-1}
        className={`${PART} grid grid-cols-[minmax(0,1fr)]`}
      >
        <References pageId={page.id} isReady={isReady} />
      </Tabs.Content>
    </Tabs.Root>
  )
}

/** How many files go out, what is fetched of them, and what is not there yet. */
function Top({ page, delivery }: { page: Page; delivery: Delivery }) {
  const files = delivery.photos.reduce((count, photo) => count + photo.files.length, 0)
  const taken = delivery.photos.filter((photo) => photo.files.length > 0)
  const left = delivery.photos.length - taken.length
  const missing = taken.filter(({ alt_text }) => alt_text === null).length
  const { fetched_bytes, old_browser_bytes } = page.totals
  return (
    <div>
      <h2 className="text-lead font-semibold">What goes out</h2>
      <p role="status" className="text-soft">
        {countWords(files, 'file')} for {countWords(taken.length, 'photo')}.{' '}
        {delivery.running > 0
          ? `${countWords(delivery.running, 'file')} being made. `
          : fetched_bytes > 0 &&
            `A browser of today fetches ${sizeWords(fetched_bytes)} at ${page.settings.density}×${
              old_browser_bytes === fetched_bytes
                ? ''
                : `, an old one ${sizeWords(old_browser_bytes)}`
            }. `}
        {left > 0 && `Nothing is taken of ${countWords(left, 'photo')}. `}
        {missing > 0 && (
          <b className="font-semibold text-ink">
            {countWords(missing, 'alternative text')} {missing === 1 ? 'is' : 'are'} missing.
          </b>
        )}
      </p>
    </div>
  )
}
