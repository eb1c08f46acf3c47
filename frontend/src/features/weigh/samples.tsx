import { useSamples } from '@/api/queries'

type Props = { onOpen: (file: string) => void; isBusy: boolean }

/** The demo photos, each with the difficulty that it shows. */
export function Samples({ onOpen, isBusy }: Props) {
  const samples = useSamples().data?.samples ?? []
  return (
    <ul aria-label="Demo photos" className="space-y-px">
      {samples.map((sample) => (
        <li key={sample.file}>
          <button
            type="button"
            disabled={isBusy}
            title={`${sample.alt}. It shows ${sample.shows}.`}
            onClick={() => onOpen(sample.file)}
            className="w-full truncate rounded-sm px-1.5 py-1 text-left text-xs hover:bg-wash disabled:opacity-50"
          >
            {sample.title}
          </button>
        </li>
      ))}
    </ul>
  )
}
