import { Tabs } from 'radix-ui'

type Props = { label: string; tabs: readonly { value: string; text: string }[] }

/** The names of tabs, in a row. */
export function TabNames({ label, tabs }: Props) {
  return (
    <Tabs.List
      aria-label={label}
      className="flex gap-x-4 border-b border-line px-3.5 narrow:flex-wrap"
    >
      {tabs.map(({ value, text }) => (
        <Tabs.Trigger
          key={value}
          value={value}
          className="border-b-2 border-transparent py-2 text-soft hover:text-ink focus-visible:-outline-offset-2 data-[state=active]:border-navy data-[state=active]:font-semibold data-[state=active]:text-ink"
        >
          {text}
        </Tabs.Trigger>
      ))}
    </Tabs.List>
  )
}
