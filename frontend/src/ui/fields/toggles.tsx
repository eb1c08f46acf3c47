import { ToggleGroup } from 'radix-ui'

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
      className="flex shrink-0 overflow-hidden rounded-md border border-line bg-sheet text-xs"
    >
      {options.map((option) => (
        <ToggleGroup.Item
          key={option.value}
          value={option.value}
          title={option.hint}
          disabled={option.isDisabled ?? false}
          className="border-r border-line px-[7px] py-1 last:border-0 hover:bg-wash focus-visible:-outline-offset-2 data-[state=on]:bg-ink data-[state=on]:text-white disabled:data-[state=off]:opacity-50"
        >
          {option.text}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  )
}
