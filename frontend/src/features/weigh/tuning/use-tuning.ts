import { useEffect, useRef, useState } from 'react'

import type { Encode, WantedEncode, Weighing } from '@/api/client'
import { Refused } from '@/api/client'
import { useMakeEncode } from '@/api/queries'

/** An encode that is a draft, and of what. */
type Draft = { encodeId: number; wanted: WantedEncode; words: string }

export type Tuning = {
  /** What is being made, until it is there. */
  wanted: WantedEncode | null
  /** The last draft and what it is one of, until the real one is there. */
  draft: Draft | null
  /** The encode that the last one came from. */
  before: Encode | null
  problem: string | null
  /** Asks for an encode that comes from another one; settles once it is there or overtaken. */
  tune: (from: Encode, wanted: WantedEncode) => Promise<void>
  /** Wants nothing any more. */
  leave: () => void
}

/**
 * Turning knobs: the first answer, which may be a draft, is shown as it comes; then the real encode,
 * unless another was asked for in the meantime. The newest is always answered.
 */
export function useTuning(weighing: Weighing, onMade: (made: Encode) => void): Tuning {
  const make = useMakeEncode(weighing.id, weighing.density)
  const [wanted, setWanted] = useState<WantedEncode | null>(null)
  const [draft, setDraft] = useState<Draft | null>(null)
  const [before, setBefore] = useState<Encode | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const newest = useRef<WantedEncode | null>(null)
  const drafting = useRef<Promise<unknown>>(Promise.resolve())
  const tell = useRef(onMade)
  useEffect(() => {
    tell.current = onMade
  })

  const want = (asked: WantedEncode | null) => {
    newest.current = asked
    setWanted(asked)
  }
  /** Whether what came was a draft. */
  const ask = async (asked: WantedEncode, may_draft: boolean): Promise<boolean> => {
    try {
      const { encode, is_draft, wanted_words } = await make({ ...asked, may_draft })
      if (newest.current === null || (!may_draft && newest.current !== asked)) return false
      setDraft(is_draft ? { encodeId: encode.id, wanted: asked, words: wanted_words } : null)
      setProblem(null)
      tell.current(encode)
      return is_draft
    } catch (error) {
      const isNewer = error instanceof Refused && error.code === 'superseded'
      if (!isNewer) setProblem(error instanceof Error ? error.message : String(error))
      return false
    }
  }
  const tune = async (from: Encode, asked: WantedEncode) => {
    if (!newest.current) setBefore(from)
    want(asked)
    await drafting.current
    if (newest.current !== asked) return
    const first = ask(asked, true)
    drafting.current = first
    if ((await first) && newest.current === asked) await ask(asked, false)
    if (newest.current === asked) want(null)
  }
  return {
    wanted,
    draft: wanted ? draft : null,
    before,
    problem,
    tune,
    leave: () => want(null),
  }
}
