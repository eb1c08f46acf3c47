import { useEffect, useRef, useState } from 'react'

import {
  api,
  type Encode,
  type Glimpse,
  Refused,
  type WantedEncode,
  type Weighing,
} from '@/api/client'
import { urls } from '@/api/urls'
import { useMakeEncode } from '@/api/queries'

import { isAsAsked } from '../chart/series'
import type { StageView } from '../stage/use-view'
import { boxInSight } from '../stage/view'

/** A glimpse, and of what. */
export type GlimpseOf = Glimpse & { wanted: WantedEncode }

export type Tuning = {
  /** What is being made, until it is there. */
  wanted: WantedEncode | null
  /** How the part on the stage will look, until the file itself is there. */
  glimpse: GlimpseOf | null
  /** The encode that the last one came from. */
  before: Encode | null
  problem: string | null
  /** Asks for an encode that comes from another one; settles once it is there or overtaken. */
  tune: (from: Encode, wanted: WantedEncode) => Promise<void>
  /** Wants nothing any more. */
  leave: () => void
}

/**
 * Turning knobs: first the part that is on the stage is shown; then the whole file follows, unless
 * another was asked for in the meantime. One glimpse is made at a time, and the newest always.
 */
export function useTuning(
  weighing: Weighing,
  view: StageView,
  selectedId: number | undefined,
  onMade: (made: Encode) => void,
): Tuning {
  const make = useMakeEncode(weighing.id, weighing.density)
  const [wanted, setWanted] = useState<WantedEncode | null>(null)
  const [glimpse, setGlimpse] = useState<GlimpseOf | null>(null)
  const [before, setBefore] = useState<Encode | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const [made, setMade] = useState<{ id: number; asked: WantedEncode } | null>(null)
  /** What was looked at when it was asked for. */
  const [fromId, setFromId] = useState<number | undefined>()
  const newest = useRef<WantedEncode | null>(null)
  const looked = useRef(selectedId)
  const looking = useRef<Promise<void>>(Promise.resolve())
  const tell = useRef(onMade)
  useEffect(() => {
    tell.current = onMade
    looked.current = selectedId
  })
  useEffect(
    () => () => {
      newest.current = null // what comes later is nobody's
    },
    [],
  )
  // What was wanted, and the glimpse, stay until the encode is what is looked at.
  if (made && made.id === selectedId) {
    setMade(null)
    if (wanted === made.asked) {
      setWanted(null)
      setGlimpse(null)
    }
  }
  // What comes of one encode is not shown over another.
  const isElsewhere = fromId !== selectedId && made?.id !== selectedId

  const want = (asked: WantedEncode | null) => {
    newest.current = asked
    setWanted(asked)
  }
  const leave = () => {
    want(null)
    setGlimpse(null)
  }
  const fail = (error: unknown) => {
    const isNewer = error instanceof Refused && error.code === 'superseded'
    if (!isNewer) setProblem(error instanceof Error ? error.message : String(error))
  }
  const look = async (asked: WantedEncode) => {
    const over = looked.current
    const { middle, picture, pane, scale } = view
    const box = boxInSight(middle.now(), picture, pane, scale)
    try {
      const seen = await api.glimpse(weighing.id, weighing.density, asked, box)
      if (newest.current && looked.current === over) setGlimpse({ ...seen, wanted: asked })
    } catch {
      // What is wrong with it is said of the file itself.
    }
  }
  const tune = async (from: Encode, asked: WantedEncode) => {
    if (!newest.current) setBefore(from)
    setFromId(looked.current)
    want(asked)
    await looking.current
    if (newest.current !== asked) return
    if (!weighing.encodes.some((encode) => isAsAsked(encode, asked))) {
      looking.current = look(asked)
      await looking.current
    }
    if (newest.current !== asked) return
    try {
      const encode = await make(asked)
      await loaded(urls.encodedFile(encode))
      if (newest.current !== asked) return
      setProblem(null)
      newest.current = null
      setMade({ id: encode.id, asked })
      tell.current(encode)
    } catch (error) {
      fail(error)
      if (newest.current === asked) leave()
    }
  }
  const shown = isElsewhere ? { wanted: null, glimpse: null } : { wanted, glimpse }
  return { ...shown, before, problem, tune, leave }
}

/** Settles once the browser has a picture, so that the glimpse stays until then. */
async function loaded(src: string): Promise<void> {
  const picture = new Image()
  picture.src = src
  await picture.decode().catch(() => undefined)
}
