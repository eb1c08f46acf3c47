import { DropdownMenu } from 'radix-ui'

import { buttonClass } from './button'

type Item = { text: string; hint?: string; onSelect: () => void; isDisabled?: boolean } | 'line'

type Props = { label: string; trigger?: string; items: readonly Item[] }

/** Acts that are folded away behind a word, or three dots. */
export function Menu({ label, trigger, items }: Props) {
  return (
    <DropdownMenu.Root modal={false}>
      <DropdownMenu.Trigger
        aria-label={label}
        className={
          trigger
            ? buttonClass('small')
            : 'rounded-md border border-transparent px-1.5 py-1 hover:border-line data-[state=open]:border-ink'
        }
      >
        {trigger ?? (
          <svg viewBox="0 0 16 16" className="size-4 fill-ink" aria-hidden>
            <path d="M2 7h2v2H2zM7 7h2v2H7zM12 7h2v2h-2z" />
          </svg>
        )}
      </DropdownMenu.Trigger>
      <DropdownMenu.Content
        align={trigger ? 'start' : 'end'}
        sideOffset={4}
        className="z-10 min-w-40 rounded-md border border-ink bg-field py-1"
      >
        {items.map((item, index) =>
          item === 'line' ? (
            <DropdownMenu.Separator key={index} className="my-1 border-t border-hair" />
          ) : (
            <DropdownMenu.Item
              key={index}
              disabled={item.isDisabled ?? false}
              onSelect={item.onSelect}
              className="cursor-pointer px-3 py-1 outline-none data-[disabled]:text-soft/60 data-[highlighted]:bg-wash"
            >
              {item.text}
              {item.hint && <span className="block max-w-80 text-tiny text-soft">{item.hint}</span>}
            </DropdownMenu.Item>
          ),
        )}
      </DropdownMenu.Content>
    </DropdownMenu.Root>
  )
}
