/** What is written on a pane. */
import type { Encode, Framed } from '@/api/client'
import { pixelWords, sizeWords } from '@/words'

/** An encode with its bytes and pixels, and whether it has fewer than its place; or the original
 * where none is shown. */
export function tagOf(framed: Framed, encode: Encode | undefined, prefix = ''): string {
  if (!encode) return `Original, ${pixelWords(framed)}`
  const enlarged = encode.width_px < framed.width_px ? ', enlarged' : ''
  return `${prefix}${encode.name}, ${sizeWords(encode.size_bytes)}, ${pixelWords(encode)}${enlarged}`
}

/** A part that is a draft. */
export function glimpseTag(of: Encode): string {
  return `Draft: ${of.name}, the part in sight`
}
