/** Texts of a site as they come in, and as they go out with what was taken. */
import type { RepointedText, SiteText } from '@/api/client'

/** The text of a file, to the character; null for one that is not UTF-8. */
export async function readText(file: File): Promise<SiteText | null> {
  try {
    const decoder = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true })
    const text = decoder.decode(await file.arrayBuffer())
    return text.includes('\0') ? null : { name: file.name, text } // UTF-16 without its mark
  } catch {
    return null
  }
}

export const keyOf = (text: string, hunk: number) => `${text} ${hunk}`

/** A text with the hunks that were taken. */
export function resultOf(text: RepointedText, isTaken: (hunk: number) => boolean): string {
  const pieces = text.hunks.map(
    (hunk, index) => hunk.between + (isTaken(index) ? hunk.after : hunk.before),
  )
  return pieces.join('') + text.rest
}

/** Saves a text under the name that it came with. */
export function saveText(name: string, text: string) {
  const address = URL.createObjectURL(new Blob([text], { type: 'text/plain' }))
  const link = document.createElement('a')
  link.href = address
  link.download = name
  link.click()
  URL.revokeObjectURL(address)
}
