import { ToggleGroup } from 'radix-ui'

import { Hint } from '@/ui/hint'

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
      className="flex shrink-0 overflow-hidden rounded-md border border-edge bg-sheet text-small"
    >
      {options.map((option) => (
        <Hint key={option.value} words={option.hint}>
          <ToggleGroup.Item
            value={option.value}
            className="border-r border-line px-2 py-1 last:border-0 hover:bg-wash focus-visible:-outline-offset-2 aria-checked:bg-ink aria-checked:text-white"
          >
            {option.text}
          </ToggleGroup.Item>
        </Hint>
      ))}
    </ToggleGroup.Root>
  )
}
