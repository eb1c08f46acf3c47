import type { Weighing } from '@/api/client'
import { useChangeAim } from '@/api/queries'
import { Button } from '@/ui/button'
import { limitWords } from '@/words'

/** What came of the search, and what would be enough for more. */
export function Outcome({ weighing }: { weighing: Weighing }) {
  const change = useChangeAim(weighing.id)
  const { outcome, enough, search } = weighing
  const encodes = search.formats.reduce((sum, format) => sum + format.encodes, 0)
  if (search.state === 'running' || !outcome) return null
  return (
    <section aria-label="Outcome" className="space-y-1 border-b border-line px-3.5 py-2.5">
      <p>
        {outcome} <span className="text-soft">{encodes} encodes were weighed.</span>
      </p>
      {enough && (
        <p className="flex items-center justify-between gap-2 text-soft">
          <span>
            {enough.is_estimate ? 'About ' : ''}
            {limitWords(enough.limit_bytes)} would be {enough.words}.
          </span>
          <Button look="quiet" onClick={() => change.mutate({ limit_bytes: enough.limit_bytes })}>
            Allow it
          </Button>
        </p>
      )}
    </section>
  )
}
