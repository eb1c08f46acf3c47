import { api, type Weighing } from '@/api/client'
import { usePhotoAct } from '@/api/queries'
import { Button } from '@/ui/button'
import { countWords, limitWords } from '@/words'

/** What came of the search, and what would be enough for more. */
export function Summary({ weighing }: { weighing: Weighing }) {
  const act = usePhotoAct(weighing.id)
  const { summary, next_level, rescue, search, close_call, second_opinion } = weighing
  const encodes = search.formats.reduce((sum, format) => sum + format.encodes, 0)
  if (search.state === 'running' || !summary) return null
  return (
    <section aria-label="Outcome" className="space-y-1 border-b border-line px-3.5 py-2.5">
      <p>
        {summary}{' '}
        <span className="text-soft">
          {countWords(encodes, 'encode')} {encodes === 1 ? 'was' : 'were'} weighed.
        </span>
      </p>
      {close_call && <p>{close_call.sentence}</p>}
      {second_opinion && <p className="text-soft">{second_opinion.sentence}</p>}
      {next_level && !rescue && (
        <p className="flex items-center justify-between gap-2 text-soft">
          <span>
            {next_level.is_estimate ? 'About ' : ''}
            {limitWords(next_level.limit_bytes)} would be {next_level.words}.
          </span>
          <Button
            look="quiet"
            onClick={() =>
              act.mutate(() => api.changeAim(weighing.id, { limit_bytes: next_level.limit_bytes }))
            }
          >
            Allow it
          </Button>
        </p>
      )}
    </section>
  )
}
