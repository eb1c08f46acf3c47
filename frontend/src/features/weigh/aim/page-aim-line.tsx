import { api } from '@/api/client'
import { useAct } from '@/api/queries'
import { useWhere } from '@/shell/where'
import { Button } from '@/ui/button'
import { aimWords } from '@/words'

/** Whether the aim is that of the page; where it is an exception, one step back to it. */
export function PageAimLine({ photoId }: { photoId: number }) {
  const { page, photo } = useWhere()
  const act = useAct()
  if (!page?.default || !photo) return null
  return (
    <p className="flex items-center justify-between gap-2 text-small text-soft">
      {photo.follows_page ? `The aim of ${page.name}` : 'An aim of its own'}
      {!photo.follows_page && (
        <Button
          look="quiet"
          className="py-0 text-small"
          disabled={act.isPending}
          onClick={() => act.mutate(() => api.followPage([photoId]))}
        >
          Back to {aimWords(page.default)}
        </Button>
      )}
    </p>
  )
}
