/** What is written on a pane. */
import type { Encode, Framed } from '@/api/client'
import { pixelWords, sizeWords } from '@/words'

/** An encode with its bytes and pixels, or the original where none is shown. */
export function tagOf(framed: Framed, encode: Encode | undefined, prefix = ''): string {
  if (!encode) return `Original, ${pixelWords(framed)}`
  return `${prefix}${encode.name}, ${sizeWords(encode.size_bytes)}, ${pixelWords(encode)}`
}

/** A part that is a draft. */
export function glimpseTag(of: Encode): string {
  return `Draft: ${of.name}, the part in sight`
}
