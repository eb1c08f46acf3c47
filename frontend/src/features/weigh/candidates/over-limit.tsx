import { api } from '@/api/client'
import { usePhotoAct } from '@/api/queries'
import { useWhere } from '@/shell/where'
import { Field } from '@/ui/fields/field'
import { sizeWords } from '@/words'

/** A pick over its limit: by how much, and the reason, which is asked for. */
export function OverLimit({ photoId }: { photoId: number }) {
  const { photo } = useWhere()
  const give = usePhotoAct(photoId)
  if (!photo || photo.over_bytes === 0) return null
  return (
    <div className="mt-2 text-small">
      <p className="text-over">{sizeWords(photo.over_bytes)} over its limit.</p>
      <Field
        label="Why"
        text={photo.reason}
        read={(text) => (text.length <= 200 ? text : null)}
        problem="Up to 200 characters."
        onEnter={(text) => give.mutate(() => api.giveReason(photoId, text))}
        className="w-52"
      />
    </div>
  )
}
