import { Tooltip } from 'radix-ui'
import type { ReactElement } from 'react'

type Props = { words: string | undefined; children: ReactElement }

/** Words about a control, shown when a pointer rests on it and when the keyboard comes to it. */
export function Hint({ words, children }: Props) {
  if (!words) return children
  return (
    <Tooltip.Root>
      <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content
          sideOffset={6}
          collisionPadding={8}
          className="z-30 max-w-72 rounded-md border border-ink bg-field px-2 py-1 text-small text-ink"
        >
          {words}
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  )
}
