import type { Format } from '@/api/client'

/** Shapes around the origin, of about equal weight: a format is never told by colour alone. */
export const FORMAT_SHAPES: Record<Format, string> = {
  jpeg: 'M-5 0a5 5 0 1 0 10 0a5 5 0 1 0-10 0',
  png: 'M-4.6-4.6h9.2v9.2h-9.2z',
  webp: 'M0-5.6L5.9 4.6H-5.9z',
  avif: 'M0-6.2L6.2 0L0 6.2L-6.2 0z',
}

export const FORMAT_FILLS: Record<Format, string> = {
  jpeg: 'fill-jpeg',
  png: 'fill-png',
  webp: 'fill-webp',
  avif: 'fill-avif',
}

export const FORMAT_STROKES: Record<Format, string> = {
  jpeg: 'stroke-jpeg',
  png: 'stroke-png',
  webp: 'stroke-webp',
  avif: 'stroke-avif',
}

export function FormatMark({ format }: { format: Format }) {
  return (
    <svg viewBox="-7 -7 14 14" className="size-3 shrink-0" aria-hidden>
      <path d={FORMAT_SHAPES[format]} className={FORMAT_FILLS[format]} />
    </svg>
  )
}
