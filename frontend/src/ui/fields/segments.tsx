import { ToggleGroup } from 'radix-ui'

type Props<T extends string> = {
  label: string
  value: T
  options: readonly { value: T; text: string; hint?: string }[]
  onChange: (value: T) => void
}

/** One of a few, all in sight. */
export function Segments<T extends string>({ label, value, options, onChange }: Props<T>) {
  return (
    <ToggleGroup.Root
      type="single"
      aria-label={label}
      value={value}
      onValueChange={(chosen) => {
        const option = options.find((o) => o.value === chosen)
        if (option) onChange(option.value)
      }}
      className="flex shrink-0 overflow-hidden rounded-md border border-line bg-sheet text-xs"
    >
      {options.map((option) => (
        <ToggleGroup.Item
          key={option.value}
          value={option.value}
          title={option.hint}
          className="border-r border-line px-[7px] py-1 last:border-0 hover:bg-wash focus-visible:-outline-offset-2 data-[state=on]:bg-ink data-[state=on]:text-white"
        >
          {option.text}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  )
}
