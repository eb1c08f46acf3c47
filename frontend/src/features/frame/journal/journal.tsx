import { api, type Entry, type Weighing } from '@/api/client'
import { useJournal, usePhotoAct } from '@/api/queries'
import { Button } from '@/ui/button'
import { useOneStop } from '@/ui/hooks/use-one-stop'

import { useShown } from '../use-shown'

const STATUS: Record<Entry['status'], string> = {
  done: '',
  current: 'now',
  undone: 'undone',
}

/** Every step on the photo, the newest first: go back to one, or compare two. */
export function Journal({ weighing }: { weighing: Weighing }) {
  const journal = useJournal(weighing.id).data
  const act = usePhotoAct(weighing.id)
  const [{ compared }, setShown] = useShown()
  const list = useOneStop<HTMLOListElement>()
  const compare = (entryId: number) =>
    setShown({
      compared: compared.includes(entryId)
        ? compared.filter((id) => id !== entryId)
        : [...compared.slice(-1), entryId],
    })
  return (
    <section aria-label="Journal" className="px-3.5 py-2">
      <p className="pb-1.5 text-small text-soft">
        Choose a step to go back to it; mark two to compare them. Nothing is ever lost.
      </p>
      <ol reversed ref={list}>
        {[...(journal?.entries ?? [])].reverse().map((entry) => (
          <li
            key={entry.id}
            aria-current={entry.status === 'current' ? 'step' : undefined}
            className="flex items-start gap-2 border-t border-hair py-1.5 aria-[current]:bg-wash"
          >
            <input
              type="checkbox"
              aria-label={`Compare ${entry.words}`}
              className="mt-0.5 ml-1"
              checked={compared.includes(entry.id)}
              onChange={() => compare(entry.id)}
            />
            <button
              type="button"
              disabled={entry.status === 'current' || act.isPending}
              onClick={() => act.mutate(() => api.goBack(weighing.id, entry.id))}
              className={`min-w-0 grow text-left enabled:hover:underline ${entry.status === 'undone' ? 'text-soft' : ''}`}
            >
              {entry.words}
            </button>
            <span className="num shrink-0 pr-1 text-tiny text-soft">
              {STATUS[entry.status] && (
                <b className="mr-1.5 font-sans font-semibold">{STATUS[entry.status]}</b>
              )}
              {timeWords(entry.made_at)}
            </span>
          </li>
        ))}
      </ol>
      {compared.length === 1 && <p className="pt-2 text-soft">Mark another step to compare.</p>}
      {compared.length === 2 && (
        <Button className="mt-2" onClick={() => setShown({ compared: [] })}>
          Close the comparison
        </Button>
      )}
    </section>
  )
}

/** The hour today, the day before that. */
function timeWords(madeAt: string): string {
  const at = new Date(madeAt)
  const isToday = at.toDateString() === new Date().toDateString()
  return isToday
    ? at.toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' })
    : at.toLocaleDateString('en-GB', { day: 'numeric', month: 'short' })
}
