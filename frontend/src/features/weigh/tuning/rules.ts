/** What the knobs of a format leave to each other. */
import type { FormatKnobs } from '@/api/client'

export type Value = number | boolean | string | null
export type RuledOut = { allowed: Value[]; reason: string } | null

/** What the other knobs leave to one, and why. */
export function ruledOut(
  knobs: FormatKnobs,
  field: string,
  values: Record<string, Value>,
): RuledOut {
  const rule = knobs.rules.find(
    (each) => each.target === field && each.values.includes(values[each.field] ?? null),
  )
  return rule ? { allowed: rule.allowed, reason: rule.reason } : null
}
