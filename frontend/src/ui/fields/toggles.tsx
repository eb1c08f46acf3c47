import { ToggleGroup } from 'radix-ui'

import { Hint } from '@/ui/hint'

type Props<T extends string> = {
  label: string
  values: readonly T[]
  options: readonly { value: T; text: string; hint?: string; isDisabled?: boolean }[]
  onChange: (values: T[]) => void
}

/** Any of a few, all in sight. */
export function Toggles<T extends string>({ label, values, options, onChange }: Props<T>) {
  return (
    <ToggleGroup.Root
      type="multiple"
      aria-label={label}
      value={[...values]}
      onValueChange={(chosen) =>
        onChange(options.map(({ value }) => value).filter((value) => chosen.includes(value)))
      }
      className="flex shrink-0 overflow-hidden rounded-md border border-edge bg-sheet text-small"
    >
      {options.map((option) => (
        <Hint key={option.value} words={option.hint}>
          <ToggleGroup.Item
            value={option.value}
            disabled={option.isDisabled ?? false}
            title={option.isDisabled ? option.hint : undefined}
            className="border-r border-line px-2 py-1 last:border-0 hover:bg-wash focus-visible:-outline-offset-2 aria-pressed:bg-ink aria-pressed:text-white disabled:not-aria-pressed:opacity-50"
          >
            {option.text}
          </ToggleGroup.Item>
        </Hint>
      ))}
    </ToggleGroup.Root>
  )
}
