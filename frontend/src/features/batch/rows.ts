import type { Photo } from '@/api/client'

/** A photo of a batch in figures; what it has none of is null. */
export type Row = {
  id: number
  name: string
  old_bytes: number
  new_bytes: number | null
  ratio: number | null
  likeness: number | null
  worst: string
  strength: number
  state: string
}

/** What came of a photo: what was taken, or the best that meets its aim. */
export function rowOf(photo: Photo): Row {
  const made = photo.pick ?? photo.best
  const worst = made?.worst
  return {
    id: photo.id,
    name: photo.name,
    old_bytes: photo.source.size_bytes,
    new_bytes: made?.size_bytes ?? null,
    ratio: made ? photo.source.size_bytes / made.size_bytes : null,
    likeness: made?.likeness ?? null,
    worst: worst ? [worst.level, worst.name].filter(Boolean).join(' ') : '',
    strength: worst?.strength ?? -1,
    state: photo.came_to,
  }
}

export type Column = Exclude<keyof Row, 'id' | 'strength'>

/** Rows by a column; what has no figure comes last either way. */
export function sorted(rows: Row[], column: Column, isRising: boolean): Row[] {
  const key = column === 'worst' ? 'strength' : column
  return [...rows].sort((one, other) => {
    const [a, b] = [one[key], other[key]]
    if (a === null || b === null) return Number(a === null) - Number(b === null)
    const order = typeof a === 'string' ? a.localeCompare(String(b)) : a - Number(b)
    return isRising ? order : -order
  })
}
