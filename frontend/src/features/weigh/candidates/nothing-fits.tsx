import { api, type AimChange, type Encode, type Weighing } from '@/api/client'
import { usePhotoAct } from '@/api/queries'
import { Button } from '@/ui/button'
import { likenessNumber, limitWords, sizeWords } from '@/words'

type Props = { weighing: Weighing; nearest: Encode }

/** When no candidate meets the aim: by how much it is missed, and the ways out. */
export function NothingFits({ weighing, nearest }: Props) {
  const act = usePhotoAct(weighing.id)
  const change = (aim: AimChange) => act.mutate(() => api.changeAim(weighing.id, aim))
  const { aim, plan } = weighing
  const limit = aim.limit_bytes
  const enough = Math.ceil(nearest.size_bytes / 100) * 100
  const reached = Math.floor(nearest.likeness)
  return (
    <section aria-label="Nothing fits" className="space-y-2 border-b border-line px-3.5 py-3">
      {limit !== null ? (
        <>
          <p className="font-semibold text-over">Nothing fits {limitWords(limit)}.</p>
          <p>
            The smallest worth a look is {nearest.name} at {sizeWords(nearest.size_bytes)},{' '}
            {sizeWords(nearest.size_bytes - limit)} over.
          </p>
        </>
      ) : (
        <>
          <p className="font-semibold text-over">Nothing reaches likeness {aim.likeness}.</p>
          <p>
            The nearest is {nearest.name} at {likenessNumber(nearest.likeness)}.
          </p>
        </>
      )}
      <div className="flex flex-wrap gap-2">
        {limit !== null ? (
          <Button onClick={() => change({ limit_bytes: enough })}>
            Allow {limitWords(enough)}
          </Button>
        ) : (
          <Button disabled={reached < 0} onClick={() => change({ likeness: reached })}>
            Accept likeness {reached}
          </Button>
        )}
        <Button onClick={() => change({ size: plan.smaller })}>Stand at {plan.smaller}</Button>
      </div>
    </section>
  )
}
