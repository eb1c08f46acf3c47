import type { Finding } from '@/api/client'
import { exactWords, sizeWords } from '@/words'

type Props = { findings: Finding[]; sizeBytes: number }

/** What a file is and carries, in plain words, with the bytes of each part. */
export function Findings({ findings, sizeBytes }: Props) {
  return (
    <section aria-label="What came in" className="px-3.5 py-2">
      <p className="flex justify-between pb-1.5 text-tiny font-semibold text-soft">
        <span>The file</span>
        <span className="num" title={exactWords(sizeBytes)}>
          {sizeWords(sizeBytes)}
        </span>
      </p>
      <ul>
        {findings.map((finding, index) => (
          <li key={index} className="border-t border-hair py-1.5">
            <p className="flex items-baseline justify-between gap-3">
              <span className={finding.is_warning ? 'text-over' : ''}>
                {finding.is_warning && <span className="font-semibold">Mind: </span>}
                {finding.title}
              </span>
              {finding.size_bytes !== null && (
                <span className="num shrink-0 text-small" title={exactWords(finding.size_bytes)}>
                  {sizeWords(finding.size_bytes)}
                </span>
              )}
            </p>
            {finding.note && <p className="text-small text-soft">{finding.note}</p>}
          </li>
        ))}
      </ul>
    </section>
  )
}
