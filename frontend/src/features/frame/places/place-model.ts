/** What the fields of a place offer and take. */
import { parsePixels } from '@/words'

export const FITS = [
  { value: 'cover', text: 'Cover', hint: 'Fills its box; what does not fit in is cut off' },
  { value: 'contain', text: 'Contain', hint: 'Shown whole inside its box' },
] as const

/** A height, or any: an empty field, or the words that stand for it. */
export function readHeight(text: string): number | string | null {
  return ['', 'as it comes'].includes(text.trim()) ? 'any' : parsePixels(text)
}
