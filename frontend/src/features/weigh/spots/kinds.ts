/** The kinds of damage, as the server names them. */
import type { Encode, Terms } from '@/api/client'

export type Kind = Terms['damage_kinds'][number]['kind']

/** `mild ringing`, of the worst spot of an encode. */
export function worstWords(worst: NonNullable<Encode['worst']>): string {
  return worst.level ? `${worst.level} ${worst.name}` : worst.name
}
