import type { ComponentProps } from 'react'

import { Hint } from './hint'

const LOOKS = {
  main: 'bg-navy text-white border-navy font-semibold hover:bg-ink hover:border-ink',
  plain: 'bg-field text-ink border-line hover:border-ink',
  small: 'button-small bg-field text-ink border-line hover:border-ink',
  quiet: 'button-quiet bg-transparent text-navy border-transparent hover:underline',
}

export const buttonClass = (look: keyof typeof LOOKS) =>
  `button inline-flex items-center justify-center gap-1.5 rounded-md border whitespace-nowrap disabled:opacity-50 ${LOOKS[look]}`

type Props = ComponentProps<'button'> & { look?: keyof typeof LOOKS; hint?: string }

export function Button({ look = 'plain', className = '', hint, ...props }: Props) {
  const button = (
    <button
      type="button"
      className={`${buttonClass(look)} ${className}`}
      // What is disabled tells a pointer only, and that by itself.
      title={props.disabled ? hint : undefined}
      {...props}
    />
  )
  return hint === undefined ? button : <Hint words={hint}>{button}</Hint>
}
