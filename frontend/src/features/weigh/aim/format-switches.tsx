import type { Format } from '@/api/client'
import { useTerms } from '@/api/queries'
import { Button } from '@/ui/button'

type Props = { formats: readonly Format[]; onChange: (formats: Format[]) => void }

/** Which formats may win. */
export function FormatSwitches({ formats, onChange }: Props) {
  const terms = useTerms().formats
  const all = terms.map(({ format }) => format)
  const universal = terms.filter((each) => each.is_universal).map(({ format }) => format)
  const isUniversal = formats.join() === universal.join()
  const switched = (format: Format, isOn: boolean) =>
    all.filter((each) => (each === format ? isOn : formats.includes(each)))
  return (
    <div role="group" aria-label="Formats" className="flex items-center justify-between text-small">
      {terms.map(({ format, name }) => (
        <label key={format} className="flex items-center gap-1">
          <input
            type="checkbox"
            checked={formats.includes(format)}
            disabled={formats.length === 1 && formats[0] === format}
            onChange={(event) => onChange(switched(format, event.target.checked))}
          />
          {name}
        </label>
      ))}
      <Button
        look="quiet"
        hint="Only formats that open everywhere, in old mail programs too"
        onClick={() => onChange(isUniversal ? all : universal)}
      >
        {isUniversal ? 'All' : 'Opens everywhere'}
      </Button>
    </div>
  )
}
