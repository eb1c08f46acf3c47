import { useState } from 'react'

import { api, type Encode } from '@/api/client'
import { useAct } from '@/api/queries'
import { Button } from '@/ui/button'
import { FIELD } from '@/ui/fields/field'

type Props = { photoId: number; selected: Encode; onDone: (keptAs: string) => void }

/** Keeps what was decided about this photo under a name, for others. */
export function KeepTreatment({ photoId, selected, onDone }: Props) {
  const [name, setName] = useState('')
  const [withKnobs, setWithKnobs] = useState(false)
  const [withQuality, setWithQuality] = useState(false)
  const [withSingle, setWithSingle] = useState(false)
  const act = useAct()
  return (
    <form
      aria-label="Keep as a treatment"
      className="mb-2 space-y-1.5 border-b border-hair pb-2 text-small"
      onSubmit={(event) => {
        event.preventDefault()
        const encode_id = withKnobs && !selected.is_original ? selected.id : null
        const kept = {
          photo_id: photoId,
          name,
          encode_id,
          with_quality: withQuality,
          with_single: withSingle,
        }
        act.mutate(() => api.keepTreatment(kept), { onSuccess: () => onDone(name) })
      }}
    >
      <label className="flex items-center justify-between gap-2">
        <span className="text-soft">What it is for</span>
        <input
          className={`${FIELD} w-40`}
          value={name}
          ref={(input) => input?.focus()}
          onChange={(event) => setName(event.target.value)}
        />
      </label>
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          className="accent-navy"
          checked={withKnobs}
          onChange={(event) => setWithKnobs(event.target.checked)}
        />
        with the knobs of this {selected.name}
      </label>
      {withKnobs && 'quality' in selected.settings && (
        <label className="flex items-center gap-2 pl-5">
          <input
            type="checkbox"
            className="accent-navy"
            checked={withQuality}
            onChange={(event) => setWithQuality(event.target.checked)}
          />
          and its quality, {selected.settings.quality}
        </label>
      )}
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          className="accent-navy"
          checked={withSingle}
          onChange={(event) => setWithSingle(event.target.checked)}
        />
        with its crop, focus point and marks
      </label>
      <div className="flex gap-2">
        <Button type="submit" look="small" disabled={!name.trim() || act.isPending}>
          Keep it
        </Button>
        <Button look="quiet" onClick={() => onDone('')}>
          Cancel
        </Button>
      </div>
    </form>
  )
}
