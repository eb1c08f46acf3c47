/** Lines by which an arrival is judged: a speed, and the time of a round trip. */
import { useState } from 'react'

import { store, stored } from '@/ui/stored'

export type Line = { kbit_s: number; round_trip_ms: number }

/** An arrival that is watched; `turn` tells one from the next. */
export type Arriving = { line: Line; turn: number; encodeId: number }

const KEY = 'lines'
const FIRST: Line[] = [
  { kbit_s: 400, round_trip_ms: 400 },
  { kbit_s: 1_600, round_trip_ms: 150 },
  { kbit_s: 9_000, round_trip_ms: 60 },
]

/** The lines, remembered by this browser. */
export function useLines(): [Line[], (lines: Line[]) => void] {
  const [lines, setLines] = useState<Line[]>(read)
  return [
    lines,
    (to) => {
      store(KEY, JSON.stringify(to))
      setLines(to)
    },
  ]
}

function read(): Line[] {
  try {
    const kept: unknown = JSON.parse(stored(KEY) ?? '')
    if (Array.isArray(kept) && kept.length === FIRST.length && kept.every(isLine)) return kept
  } catch {
    // nothing kept, or not by us
  }
  return FIRST
}

function isLine(value: unknown): value is Line {
  const line = value as Partial<Line> | null
  return Number(line?.kbit_s) > 0 && Number(line?.round_trip_ms) >= 0
}

/** A round trip for the question, then the bytes at full speed. */
export const secondsOf = (bytes: number, line: Line) =>
  line.round_trip_ms / 1000 + (bytes * 8) / (line.kbit_s * 1000)
