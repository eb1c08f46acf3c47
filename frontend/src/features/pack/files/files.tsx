import { api, type Delivery, type Page } from '@/api/client'
import { useAct } from '@/api/queries'
import { Field } from '@/ui/fields/field'
import { Hint } from '@/ui/hint'

import { VariantControls } from '../variant-controls'
import { PhotoFiles } from './photo-files'

type Props = {
  page: Page
  delivery: Delivery
  chosenId: number | undefined
  onChoose: (photoId: number) => void
}

const HINT = 'Any of {name} {width} {density} {format} {hash}; the ending comes by itself'

/** All files that go out, photo by photo, and how they are called. */
export function Files({ page, delivery, chosenId, onChoose }: Props) {
  const act = useAct()
  return (
    <section
      aria-label="Files and names"
      className="flex min-h-0 flex-col border border-line bg-sheet"
    >
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1.5 border-b border-line px-3 py-2">
        <VariantControls photos={delivery.photos} page={page} />
        <Hint words={HINT}>
          <div>
            <Field
              label="Names"
              text={delivery.name_pattern}
              read={(text) => text.trim() || null}
              problem="Write a pattern."
              onEnter={(text) =>
                act.mutate(() => api.changePage(page.id, { name_pattern: text.trim() }))
              }
              className="w-40 py-0.5 text-small"
            />
          </div>
        </Hint>
      </div>
      <ul className="min-h-0 flex-1 overflow-y-auto">
        {delivery.photos.map((photo) => (
          <PhotoFiles
            key={photo.id}
            page={page}
            photo={photo}
            isChosen={photo.id === chosenId}
            onChoose={() => onChoose(photo.id)}
          />
        ))}
      </ul>
      {delivery.photos.length === 0 && (
        <p className="p-3 text-soft">There are no photos on this page yet.</p>
      )}
    </section>
  )
}
