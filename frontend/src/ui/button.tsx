import type { ComponentProps } from 'react'

const LOOKS = {
  main: 'bg-navy text-white border-navy font-semibold hover:bg-ink hover:border-ink',
  plain: 'bg-field text-ink border-line hover:border-ink',
  quiet: 'bg-transparent text-navy border-transparent hover:underline px-1',
}

export const buttonClass = (look: keyof typeof LOOKS) =>
  `inline-flex items-center justify-center gap-1.5 rounded-md border px-3 py-1.5 text-[12.5px] whitespace-nowrap disabled:opacity-50 ${LOOKS[look]}`

type Props = ComponentProps<'button'> & { look?: keyof typeof LOOKS }

export function Button({ look = 'plain', className = '', ...props }: Props) {
  return <button type="button" className={`${buttonClass(look)} ${className}`} {...props} />
}
