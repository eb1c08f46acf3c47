import { useState } from 'react'

import { api, type Series, type WantedRounds } from '@/api/client'
import { useRefreshPhoto } from '@/api/queries'

/** Blind rounds under way, if there are any, and the problem that beginning them met. */
export type Eye = {
  series: Series | null
  problem: string | undefined
  begin: (wanted: WantedRounds) => void
  answer: (side: 'a' | 'b') => void
  leave: () => void
}

export function useEye(photoId: number): Eye {
  const [series, setSeries] = useState<Series | null>(null)
  const [problem, setProblem] = useState<string>()
  const refresh = useRefreshPhoto(photoId)
  const take = (asked: Promise<Series>) => {
    setProblem(undefined)
    asked
      .then((next) => {
        setSeries(next)
        if (next.outcome) refresh()
      })
      .catch((error: Error) => {
        setSeries(null)
        setProblem(error.message)
      })
  }
  return {
    series,
    problem,
    begin: (wanted) => take(api.beginRounds(photoId, wanted)),
    answer: (side) => series && take(api.answerRound(series.series_id, series.round, side)),
    leave: () => setSeries(null),
  }
}
