import { FIELD } from './field'

type Props<T extends string> = {
  label: string
  value: T
  options: readonly { value: T; text: string }[]
  onChange: (value: T) => void
  isLabelHidden?: boolean
  className?: string
  /** With a width of its own the list stands beside it, as a field does. */
  labelClass?: string
}

/** One of several, folded away; the browser's own list. */
export function Choice<T extends string>(props: Props<T>) {
  const { label, value, options, onChange, isLabelHidden, className, labelClass } = props
  return (
    <label className={`flex items-center gap-2 ${labelClass ? '' : 'justify-between'}`}>
      <span className={isLabelHidden ? 'sr-only' : (labelClass ?? 'text-soft')}>{label}</span>
      <select
        className={`${FIELD} min-w-0 ${className ?? 'w-40'}`}
        value={value}
        onChange={(event) => {
          const option = options.find((o) => o.value === event.target.value)
          if (option) onChange(option.value)
        }}
      >
        {options.map((option) => (
          <option key={option.value} value={option.value}>
            {option.text}
          </option>
        ))}
      </select>
    </label>
  )
}
