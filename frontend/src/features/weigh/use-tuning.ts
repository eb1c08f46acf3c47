import { useEffect, useRef, useState } from 'react'

import type { Encode, EncodeWish } from '@/api/client'
import { Refused } from '@/api/client'
import { useMakeEncode } from '@/api/queries'

export type Tuning = {
  /** What is being made, until it is there. */
  wish: EncodeWish | null
  /** The encode that the last one came from. */
  before: Encode | null
  problem: string | null
  /** Asks for an encode that comes from another one; while one is made, only the newest waits. */
  tune: (from: Encode, wish: EncodeWish) => void
}

/** Turning knobs: each answer is shown as it comes, and the newest wish is always answered. */
export function useTuning(photoId: number, onMade: (made: Encode) => void): Tuning {
  const make = useMakeEncode(photoId)
  const [wish, setWish] = useState<EncodeWish | null>(null)
  const [before, setBefore] = useState<Encode | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const next = useRef<EncodeWish | null>(null)
  const isMaking = useRef(false)
  const tell = useRef(onMade)
  useEffect(() => {
    tell.current = onMade
  })

  const makeAll = async () => {
    isMaking.current = true
    while (next.current) {
      const asked = next.current
      next.current = null
      try {
        tell.current(await make(asked))
        setProblem(null)
      } catch (error) {
        const isNewer = error instanceof Refused && error.code === 'superseded'
        if (!isNewer) setProblem(error instanceof Error ? error.message : String(error))
      }
    }
    isMaking.current = false
    setWish(null)
  }
  const tune = (from: Encode, asked: EncodeWish) => {
    if (!isMaking.current) setBefore(from)
    next.current = asked
    setWish(asked)
    if (!isMaking.current) void makeAll()
  }
  return { wish, before, problem, tune }
}
