import type { Place } from '@/api/client'

/** Device pixels for a CSS pixel, as screens have them. */
export const DENSITIES = [
  { value: '1', text: '1×' },
  { value: '1.5', text: '1.5×' },
  { value: '2', text: '2×' },
  { value: '3', text: '3×' },
] as const

/** The density that a place has of these, or none. */
export function densityOf(place: Place): (typeof DENSITIES)[number]['value'] | '' {
  return DENSITIES.find((option) => Number(option.value) === place.density)?.value ?? ''
}
