/** The kinds of damage, as the stage offers them. */
import type { Damage, Encode } from '@/api/client'

export type Kind = Damage['kinds'][number]['kind']

export const KINDS = [
  'lost-detail',
  'blocks',
  'ringing',
  'banding',
  'colour-bleeding',
  'colour-shift',
  'contrast-shift',
] as const satisfies Kind[]

/** `mild ringing`, of the worst spot of an encode. */
export function worstWords(worst: NonNullable<Encode['worst']>): string {
  return worst.level ? `${worst.level} ${worst.name}` : worst.name
}

/** `colour bleeding`. */
export const kindWords = (kind: Kind) => kind.replace('-', ' ')
