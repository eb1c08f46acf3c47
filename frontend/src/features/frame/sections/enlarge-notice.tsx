import { api, Refused, type Weighing } from '@/api/client'
import { usePhotoAct } from '@/api/queries'
import { Button } from '@/ui/button'

type Props = { weighing: Weighing; error: Error; again: () => void }

/** Why a photo is not enlarged, and the way to insist. */
export function EnlargeNotice({ weighing, error, again }: Props) {
  const act = usePhotoAct(weighing.id)
  if (!(error instanceof Refused) || error.code !== 'would_enlarge') return null
  const insist = () =>
    act
      .mutateAsync(() => api.changeFraming(weighing.id, { may_enlarge: true }))
      .then(again, () => undefined)
  return (
    <div role="alert" className="space-y-1.5 border-l-[3px] border-over pl-2.5">
      <p className="text-over">{error.message}</p>
      <Button disabled={act.isPending} onClick={() => void insist()}>
        Enlarge anyway
      </Button>
    </div>
  )
}
