import { api, type Weighing } from '@/api/client'
import { usePhotoAct } from '@/api/queries'
import { Button } from '@/ui/button'
import { limitWords } from '@/words'

/** When the limit ruins the picture: said as soon as a format has ended, with what would do. */
export function Ruined({ weighing }: { weighing: Weighing }) {
  const act = usePhotoAct(weighing.id)
  const { rescue, search, aim } = weighing
  if (!rescue || aim.limit_bytes === null) return null
  const enough = limitWords(rescue.limit_bytes)
  return (
    <section aria-label="Limit" role="status" className="border-b border-line px-3.5 py-2.5">
      <p className="font-semibold text-over">
        {limitWords(aim.limit_bytes)} {search.state === 'running' ? 'seems' : 'is'} too little here.
      </p>
      <p className="flex items-center justify-between gap-2">
        <span>
          {search.state === 'running' ? 'So far the damage' : 'The damage'} is plain to see at best.{' '}
          {rescue.is_estimate ? 'About ' : ''}
          {enough} would make it {rescue.words}.
        </span>
        <Button
          look="small"
          onClick={() =>
            act.mutate(() => api.changeAim(weighing.id, { limit_bytes: rescue.limit_bytes }))
          }
        >
          Allow {enough}
        </Button>
      </p>
    </section>
  )
}
