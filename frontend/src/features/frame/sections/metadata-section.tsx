import type { MetadataPolicy, Policy } from '@/api/client'
import { useTerms } from '@/api/queries'
import { exactWords } from '@/words'

import { Section } from './section'

type Props = {
  policies: Policy[]
  value: MetadataPolicy
  onChange: (policy: MetadataPolicy) => void
}

/** What travels along in the file, with the bytes that it costs in each format. */
export function MetadataSection({ policies, value, onChange }: Props) {
  const { formats } = useTerms()
  return (
    <Section title="Metadata">
      <table className="w-full text-small">
        <thead>
          <tr className="text-tiny text-soft">
            <th className="py-1 text-left font-medium">Bytes it costs in</th>
            {formats.map(({ format, name }) => (
              <th key={format} className="py-1 text-right font-medium">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {policies.map(({ policy, name, costs }) => (
            <tr
              key={policy}
              className={`relative border-t border-hair ${policy === value ? 'bg-wash' : 'hover:bg-field'}`}
            >
              <td className="py-1">
                <label className="flex items-center gap-1.5 after:absolute after:inset-0">
                  <input
                    type="radio"
                    name="metadata"
                    checked={policy === value}
                    onChange={() => onChange(policy)}
                  />
                  {name}
                </label>
              </td>
              {formats.map(({ format }) => (
                <td
                  key={format}
                  className="num py-1 text-right"
                  title={exactWords(costs[format] ?? 0)}
                >
                  {costs[format]}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </Section>
  )
}
