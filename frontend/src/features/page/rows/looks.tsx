import { api, type Photo } from '@/api/client'
import { usePhotoAct } from '@/api/queries'
import { FIELD } from '@/ui/fields/field'
import { aimWords, likenessNumber, sizeWords } from '@/words'

/** How what was taken looks, or how far the weighing is. */
export function Looks({ photo }: { photo: Photo }) {
  const { pick, best, over_bytes } = photo
  if (pick) {
    return (
      <>
        <p>{capital(pick.likeness_words)}</p>
        {over_bytes > 0 ? (
          <Over photo={photo} />
        ) : (
          <p className="text-tiny text-soft">likeness {likenessNumber(pick.likeness)}</p>
        )}
      </>
    )
  }
  switch (photo.search_state) {
    case 'running':
      return <p className="text-soft">Weighing …</p>
    case 'failed':
      return (
        <p className="text-over" title={photo.search_error ?? undefined}>
          Could not be weighed
        </p>
      )
    case 'stopped':
      return <p className="text-soft">Not weighed yet</p>
    case 'done':
      if (!best) return <p className="text-over">Nothing meets {aimWords(photo.aim)}</p>
      return (
        <>
          {photo.is_ready ? (
            <p>Ready to take</p>
          ) : (
            <p className="text-over">Damaged within its limit</p>
          )}
          <p className="text-tiny text-soft">
            {best.name}, {sizeWords(best.size_bytes)}, {best.likeness_words}
          </p>
        </>
      )
  }
}

/** By how much a pick is over its limit, and why; the reason is asked for until it is given. */
function Over({ photo }: { photo: Photo }) {
  const give = usePhotoAct(photo.id)
  const over = `${sizeWords(photo.over_bytes)} over`
  if (photo.reason) {
    return (
      <p className="line-clamp-2 text-tiny leading-tight" title={photo.reason}>
        <span className="text-over">{over}</span>: {photo.reason}
      </p>
    )
  }
  return (
    <form
      className="flex items-center gap-1.5 text-tiny text-over"
      onSubmit={(event) => {
        event.preventDefault()
        const words = new FormData(event.currentTarget).get('reason')
        if (typeof words === 'string' && words.trim())
          give.mutate(() => api.giveReason(photo.id, words))
      }}
    >
      <span className="whitespace-nowrap">{over}:</span>
      <input
        name="reason"
        aria-label={`Why ${photo.name} may be over its limit`}
        placeholder="say why"
        maxLength={200}
        className={`${FIELD} min-w-0 grow px-1 py-0 text-ink`}
      />
    </form>
  )
}

function capital(words: string): string {
  return words.charAt(0).toUpperCase() + words.slice(1)
}
