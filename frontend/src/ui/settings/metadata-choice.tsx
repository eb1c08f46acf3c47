import type { MetadataPolicy } from '@/api/client'
import { Choice } from '@/ui/fields/choice'

const POLICIES = [
  { value: 'nothing', text: 'none' },
  { value: 'credit', text: 'the credit' },
  { value: 'no-position', text: 'all but position' },
  { value: 'everything', text: 'everything' },
] as const

export function metadataWords(policy: MetadataPolicy): string {
  return POLICIES.find(({ value }) => value === policy)?.text ?? policy
}

type Props = {
  value: MetadataPolicy
  onChange: (policy: MetadataPolicy) => void
  className?: string
}

/** Which metadata travel along. */
export function MetadataChoice(props: Props) {
  return <Choice label="Metadata" options={POLICIES} {...props} />
}
