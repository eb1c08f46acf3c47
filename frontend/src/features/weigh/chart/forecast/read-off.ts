/** Reading off the curves of forecasts: between two points by the logarithm of bytes. */
import type { Forecast } from '@/api/client'

type Read = { name: string; size_bytes: number; likeness: number }

/** The best likeness to expect of so many bytes, and its format. */
export function bestWithin(forecasts: readonly Forecast[], bytes: number): Read | null {
  const read = forecasts.map(({ name, points }) => {
    const above = points.findIndex(({ size_bytes }) => size_bytes > bytes)
    const [from, to] = [points[above - 1], points[above]]
    if (above < 0) return { name, size_bytes: bytes, likeness: points.at(-1)?.likeness ?? 0 }
    if (!from || !to) return null
    const share = Math.log(bytes / from.size_bytes) / Math.log(to.size_bytes / from.size_bytes)
    const likeness = from.likeness + share * (to.likeness - from.likeness)
    return { name, size_bytes: bytes, likeness }
  })
  return bestOf(read, (one, best) => one.likeness > best.likeness)
}

/** The fewest bytes to expect a likeness of, and their format. */
export function lightestFor(forecasts: readonly Forecast[], likeness: number): Read | null {
  const read = forecasts.map(({ name, points }) => {
    const above = points.findIndex((point) => point.likeness >= likeness)
    const [from, to] = [points[above - 1], points[above]]
    if (!to) return null
    if (!from) return { name, size_bytes: to.size_bytes, likeness }
    const share = (likeness - from.likeness) / (to.likeness - from.likeness)
    const log = Math.log(from.size_bytes) + share * Math.log(to.size_bytes / from.size_bytes)
    return { name, size_bytes: Math.exp(log), likeness }
  })
  return bestOf(read, (one, best) => one.size_bytes < best.size_bytes)
}

function bestOf(read: readonly (Read | null)[], isBetter: (one: Read, best: Read) => boolean) {
  return read.reduce((best, one) => (one && (!best || isBetter(one, best)) ? one : best), null)
}
