import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'

import { api, type Series, type WantedRounds } from '@/api/client'

/** Blind rounds under way, if there are any. */
export type Eye = {
  series: Series | null
  begin: (wanted: WantedRounds) => void
  answer: (side: 'a' | 'b') => void
  leave: () => void
}

export function useEye(photoId: number): Eye {
  const [series, setSeries] = useState<Series | null>(null)
  const begin = useMutation({
    mutationFn: (wanted: WantedRounds) => api.beginRounds(photoId, wanted),
    onSuccess: setSeries,
  })
  const answer = useMutation({
    mutationFn: ({ id, round, side }: Series & { side: 'a' | 'b' }) =>
      api.answerRound(id, round, side),
    onSuccess: setSeries,
  })
  return {
    series,
    begin: begin.mutate,
    answer: (side) => series && answer.mutate({ ...series, side }),
    leave: () => setSeries(null),
  }
}
