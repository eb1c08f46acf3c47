/** Knobs that were turned here, to be taken back one by one until something else is done. */
import { skipToken, useQuery, useQueryClient } from '@tanstack/react-query'

import { keys } from './keys'

/** From one encode to the one that came of it. */
type Turn = { from: number; to: number }
/** All turns of a photo, and how many of them stand: the last of these is taken back first. Before
 * `since` something else was done. */
type Turns = { made: readonly Turn[]; standing: number; since: number }

const NONE: Turns = { made: [], standing: 0, since: 0 }

function useTurnsOf(photoId: number): Turns {
  const queryKey = keys.turns(photoId)
  return useQuery<Turns>({ queryKey, queryFn: skipToken, gcTime: Infinity }).data ?? NONE
}

function useChange(photoId: number) {
  const client = useQueryClient()
  return (to: (now: Turns) => Turns) =>
    client.setQueryData<Turns>(keys.turns(photoId), (now) => to(now ?? NONE))
}

/** Steps back and forth along the turns, from what is shown; none where no turn has led there. */
export function useTurns(photoId: number, shownId: number, show: (encodeId: number) => void) {
  const turns = useTurnsOf(photoId)
  const change = useChange(photoId)
  const last = turns.standing > turns.since ? turns.made[turns.standing - 1] : undefined
  const next = turns.made[turns.standing]
  const step = (by: 1 | -1, encodeId: number) => () => {
    change((now) => ({ ...now, standing: now.standing + by }))
    show(encodeId)
  }
  return {
    back: last && last.to === shownId ? step(-1, last.from) : null,
    forth: next && next.from === shownId ? step(1, next.to) : null,
  }
}

/** Notes turns, and tells what came of them, the newest last. */
export function useTries(photoId: number) {
  const turns = useTurnsOf(photoId)
  const change = useChange(photoId)
  const note = (turn: Turn) =>
    change(({ made, standing, since }) => ({
      made: [...made.slice(0, standing), turn],
      standing: standing + 1,
      since,
    }))
  return { tried: [...new Set(turns.made.map(({ to }) => to))], note }
}

/** From now on only what is turned later is taken back; watches nothing, since each row acts. */
export function useNoMoreTurns(photoId: number) {
  const change = useChange(photoId)
  return () =>
    change(({ made, standing }) => ({ made: made.slice(0, standing), standing, since: standing }))
}
