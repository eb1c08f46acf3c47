/** Numbers in plain words, each rounded once, and read back. */
import type { Aim, NamedPlace, Place, Wire } from '@/api/client'

/** `812 B`, `198.4 kB`, `4.86 MB`. */
export function sizeWords(bytes: number): string {
  if (bytes < 1000) return `${bytes} B`
  if (bytes < 999_950) return `${(bytes / 1000).toFixed(1)} kB`
  return `${(bytes / 1_000_000).toFixed(2)} MB`
}

/** `1 file`, `3 files`. */
export function countWords(count: number, noun: string): string {
  return `${count} ${noun}${count === 1 ? '' : 's'}`
}

/** `198.4 of 200 kB`: what is used of a limit. */
export function shareWords(bytes: number, limit: number): string {
  const isBothInKb = bytes >= 1000 && bytes < 999_950 && limit % 100 === 0
  return `${isBothInKb ? (bytes / 1000).toFixed(1) : sizeWords(bytes)} of ${limitWords(limit)}`
}

/** The exact count, for the hover of a rounded size: `198,412 bytes`. */
export function exactWords(bytes: number): string {
  return `${bytes.toLocaleString('en-GB')} bytes`
}

/** `24.5 times lighter`, or how much heavier. */
export function savingWords(bytes: number, original: number): string {
  if (bytes >= original) return `${(bytes / original).toFixed(1)} times as heavy as the original`
  return `${(original / bytes).toFixed(1)} times lighter`
}

/** A likeness as it is shown, from 0 to 100: scores go on below, where nothing is told apart. */
export function likenessNumber(likeness: number): string {
  return Math.max(0, likeness).toFixed(1)
}

/** `200 kB, likeness 90`, `any, likeness 80` or `200 kB, best`, as it can be typed. */
export function aimWords({ limit_bytes, likeness }: Pick<Aim, 'limit_bytes' | 'likeness'>): string {
  const limit = limit_bytes === null ? 'any' : limitWords(limit_bytes)
  return `${limit}, ${likeness === null ? 'best' : `likeness ${likeness}`}`
}

export function pixelWords(size: { width_px: number; height_px: number }): string {
  return `${size.width_px} × ${size.height_px}`
}

/** `1200 px at 2×`, `60 % at 1×`: a size as it was typed, and a density. */
export function placeWords(place: Place): string {
  return `${place.size} at ${place.density}×`
}

/** `1200 × 675 px`: how large a photo stands. */
export function standingWords(photo: { css_width_px: number; css_height_px: number }): string {
  return `${photo.css_width_px} × ${photo.css_height_px} px`
}

/** `0.54 s`, `12.2 s`. */
export function secondsWords(seconds: number): string {
  return `${seconds.toFixed(seconds < 10 ? 2 : 1)} s`
}

/** A whole number of pixels, `741` or `741 px`, within bounds; null if it is none. */
export function parsePixels(text: string, least = 1, most = 16384): number | null {
  const match = /^\s*(\d{1,5})\s*(px)?\s*$/i.exec(text)
  const pixels = Number(match?.[1] ?? Number.NaN)
  return pixels >= least && pixels <= most ? pixels : null
}

/** A number such as `0.8`, `-2,5 °` or `30 %`, within bounds; null if it is none. */
export function parseNumber(text: string, least: number, most: number): number | null {
  const match = /^\s*([-−+]?\d+(?:[.,]\d+)?)\s*(?:%|°|px)?\s*$/.exec(text)
  if (!match?.[1]) return null
  const value = Number(match[1].replace(',', '.').replace('−', '-'))
  return value >= least && value <= most ? value : null
}

/** The changes to an aim that make it what was typed. */
export function aimOf(typed: Wire['TypedAimResponse']) {
  const { limit_bytes, likeness } = typed
  return { ...(typed.has_limit && { limit_bytes }), ...(typed.has_likeness && { likeness }) }
}

/** `1 min 20 s`, `45 s`: about so long. */
export function durationWords(seconds: number): string {
  const whole = Math.max(1, Math.round(seconds))
  return whole < 90 ? `${whole} s` : `${Math.floor(whole / 60)} min ${whole % 60} s`
}

/** A limit as it stands in its field: `200 kB`, or to the byte where kB would round. */
export function limitWords(bytes: number): string {
  return bytes % 100 === 0 ? `${bytes / 1000} kB` : `${bytes} B`
}

/** `JPEG, WebP`, or that they are all. */
export function formatsWords(formats: readonly string[], terms: Wire['FormatResponse'][]): string {
  if (formats.length === terms.length) return 'all formats'
  return formats.map((each) => terms.find(({ format }) => format === each)?.name ?? each).join(', ')
}

/** `JPEG quality 75, progressive false`: the knobs that are held; empty where none is. */
export function heldWords({ held }: Pick<Aim, 'held'>): string {
  return Object.entries(held ?? {})
    .flatMap(([format, values]) =>
      Object.entries(values ?? {}).map(
        ([field, value]) =>
          `${format.toUpperCase()} ${field.replaceAll('_', ' ')} ${String(value)}`,
      ),
    )
    .join(', ')
}

/** How a likeness looks, in the words of its level where it is just that. */
export function looksWords(likeness: number | null, levels: Wire['Level'][]): string {
  if (likeness === null) return 'the best it can'
  return levels.find(({ least }) => least === likeness)?.words ?? `likeness ${likeness}`
}

/** The name of the place in the list that has this size and density. */
export function placeNameOf(place: Place, places: readonly NamedPlace[]): string | undefined {
  return places.find((named) => isSamePlace(named.place, place))?.name
}

export function isSamePlace(one: Place, other: Place): boolean {
  return one.size === other.size && one.density === other.density
}
