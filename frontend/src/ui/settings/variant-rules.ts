/** What each variant is searched for. */
export const RULES = [
  { value: 'same', text: 'the same aim' },
  { value: 'pixels', text: 'a limit by their pixels' },
  { value: 'likeness', text: 'the likeness of the pick' },
] as const
