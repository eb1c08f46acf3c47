import type { Encode, Weighing } from '@/api/client'
import { useChangeAim } from '@/api/queries'
import { Button } from '@/ui/button'
import { encodeName, limitWords, sizeWords } from '@/words'

/** How much narrower the place is that is offered as a way out. */
const SMALLER = 0.75

/** When no candidate is within the limit: by how much it is missed, and the ways out. */
export function NothingFits({ weighing, smallest }: { weighing: Weighing; smallest: Encode }) {
  const change = useChangeAim(weighing.id)
  const { aim } = weighing
  const limit = weighing.search.limit_bytes
  const enough = Math.ceil(smallest.size_bytes / 100) * 100
  const narrower = Math.max(1, Math.round(aim.place.css_width_px * SMALLER))
  return (
    <section aria-label="Nothing fits" className="space-y-2 border-b border-line px-3.5 py-3">
      <p className="font-semibold text-over">Nothing fits {limitWords(limit)}.</p>
      <p>
        The smallest worth a look is {encodeName(smallest)} at {sizeWords(smallest.size_bytes)},{' '}
        {sizeWords(smallest.size_bytes - limit)} over.
      </p>
      <div className="flex flex-wrap gap-2">
        <Button onClick={() => change.mutate({ limit_bytes: enough })}>
          Allow {limitWords(enough)}
        </Button>
        <Button
          onClick={() => change.mutate({ css_width_px: narrower })}
        >
          Stand {narrower} px wide
        </Button>
      </div>
    </section>
  )
}
