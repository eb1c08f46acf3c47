/** Sizes that people type are read by the server, in one way everywhere. */
import { api } from './client'

/** The bytes of a size, null for nothing; what is neither is refused in the server's words. */
export async function readSize(text: string): Promise<number | null> {
  if (text.trim() === '') return null
  return (await api.readSize(text)).size_bytes
}
