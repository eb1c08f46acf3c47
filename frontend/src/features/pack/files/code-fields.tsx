import { api, type CodeChange, type DeliveredPhoto, type Page } from '@/api/client'
import { useAct } from '@/api/queries'
import { Field } from '@/ui/fields/field'
import { Segments } from '@/ui/fields/segments'

import { VariantControls } from '../variant-controls'

const LOADING = [
  { value: 'lazy', text: 'when near', hint: 'loading="lazy": once it is nearly in sight' },
  { value: 'eager', text: 'at once', hint: 'For what is in sight when the page opens' },
] as const
const PRIORITY = [
  { value: 'high', text: 'first' },
  { value: 'auto', text: 'in turn' },
  { value: 'low', text: 'last' },
] as const

type Props = { page: Page; photo: DeliveredPhoto }

/** How one photo stands in page code, and the densities and formats of its own. */
export function CodeFields({ page, photo }: Props) {
  const act = useAct()
  const change = (code: CodeChange) => act.mutate(() => api.changeCode(ids, code))
  const ids = [photo.id]
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-1.5 py-1.5">
      <span className="flex items-center gap-2">
        <span className="text-soft">Loads</span>
        <Segments
          label={`Loading of ${photo.name}`}
          value={photo.loading}
          options={LOADING}
          onChange={(loading) => change({ loading })}
        />
      </span>
      <span className="flex items-center gap-2">
        <span className="text-soft">Fetched</span>
        <Segments
          label={`Fetch priority of ${photo.name}`}
          value={photo.fetch_priority}
          options={PRIORITY}
          onChange={(fetch_priority) => change({ fetch_priority })}
        />
      </span>
      <Field
        label="sizes"
        text={photo.sizes}
        read={(text) => text}
        problem=""
        onEnter={(sizes) => change({ sizes: sizes.trim() })}
        className="w-64 py-0.5 text-small"
      />
      <VariantControls photos={[photo]} page={page} />
    </div>
  )
}
