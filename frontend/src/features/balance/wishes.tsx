import { useSearchParams } from 'react-router'

import type { Balance, BalanceWish, Page } from '@/api/client'
import { useTerms } from '@/api/queries'
import { readSize } from '@/api/typed'
import { Choice } from '@/ui/fields/choice'
import { Field } from '@/ui/fields/field'
import { Segments } from '@/ui/fields/segments'
import { limitWords } from '@/words'

const OBJECTIVES = [
  { value: 'worst', text: 'the worst looks best', hint: 'The worst photo as good as possible' },
  { value: 'all', text: 'all look best together', hint: 'The weighted sum of likeness' },
] as const

/** What the bytes are spent for; it stands in the address, so it survives a reload. */
export function useWish(): { wish: BalanceWish; change: (to: Partial<BalanceWish>) => void } {
  const [params, setParams] = useSearchParams()
  const spend = Number(params.get('spend'))
  const wish: BalanceWish = {
    objective: params.get('for') === 'all' ? 'all' : 'worst',
    least_likeness: Number(params.get('least')) || 0,
    spend_bytes: spend > 0 ? spend : null,
  }
  const change = (to: Partial<BalanceWish>) => {
    const next = { ...wish, ...to }
    setParams(
      {
        for: next.objective ?? 'worst',
        ...(next.least_likeness ? { least: String(next.least_likeness) } : {}),
        ...(next.spend_bytes ? { spend: String(next.spend_bytes) } : {}),
      },
      { replace: true },
    )
  }
  return { wish, change }
}

type Props = {
  page: Page
  wish: BalanceWish
  balance: Balance | undefined
  onChange: (to: Partial<BalanceWish>) => void
}

/** What to spend, for what, and what it comes to. */
export function Wishes({ page, wish, balance, onChange }: Props) {
  const levels = useTerms().likeness_levels.map(({ least, words }) => ({
    value: String(least),
    text: `${words} (${least})`,
  }))
  const spend = wish.spend_bytes ?? balance?.budget_bytes ?? page.budget_bytes
  return (
    <section aria-label="What to spend" className="flex flex-wrap items-end gap-x-6 gap-y-2">
      <Field
        label="Spend"
        text={spend ? limitWords(spend) : ''}
        onEnter={async (text) => onChange({ spend_bytes: await readSize(text) })}
        className="w-28 text-lead font-semibold"
      />
      <div className="flex items-center gap-2">
        <span className="text-soft">so that</span>
        <Segments
          label="So that"
          value={wish.objective ?? 'worst'}
          options={OBJECTIVES}
          onChange={(objective) => onChange({ objective })}
        />
      </div>
      <Choice
        label="never below"
        className="w-52"
        value={String(wish.least_likeness ?? 0)}
        options={[{ value: '0', text: 'whatever fits' }, ...levels]}
        onChange={(least) => onChange({ least_likeness: Number(least) })}
      />
      {balance && balance.photos.length > 0 && (
        <dl className="ml-auto flex gap-6 text-right">
          <Figure title="Worst photo" before={balance.worst_before} after={balance.worst_after} />
          <Figure title="All, by weight" before={balance.mean_before} after={balance.mean_after} />
        </dl>
      )}
    </section>
  )
}

type FigureProps = { title: string; before: number | null; after: number | null }

function Figure({ title, before, after }: FigureProps) {
  return (
    <div>
      <dt className="text-small text-soft">{title}</dt>
      <dd className="num text-title font-semibold">
        {before !== null && <span className="font-normal text-soft">{before.toFixed(1)} → </span>}
        {after?.toFixed(1) ?? '–'}
      </dd>
    </div>
  )
}
