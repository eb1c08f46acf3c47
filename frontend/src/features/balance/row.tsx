import { Link } from 'react-router'

import { api, type BalancedPhoto, type Photo, type Shares } from '@/api/client'
import { urls } from '@/api/urls'
import { useAct } from '@/api/queries'
import { readSize } from '@/api/typed'
import { paths } from '@/shell/where'
import { Choice } from '@/ui/fields/choice'
import { Field } from '@/ui/fields/field'
import { FormatMark } from '@/ui/format-mark'
import { exactWords, likenessNumber, limitWords, parseNumber, sizeWords } from '@/words'

type Props = { balanced: BalancedPhoto; photo: Photo | undefined; most: number }

const WEIGHTS = ['0.25', '0.5', '1', '2', '4']

/** A photo of the balance: what it weighs before and after, and what that does to it. */
export function BalanceRow({ balanced, photo, most }: Props) {
  const { before, after, fetched_bytes, after_bytes } = balanced
  return (
    <tr className="border-b border-line last:border-0 [&>td]:px-2.5 [&>td]:py-1.5">
      <td>
        {photo && (
          <Link to={paths.weigh(photo.id)} aria-label={`Weigh ${photo.name}`}>
            <img
              loading="lazy"
              src={urls.thumbnail(photo)}
              alt=""
              className="h-10 w-16 rounded-sm object-cover"
            />
          </Link>
        )}
      </td>
      <td>
        <p className="truncate font-semibold" title={balanced.name}>
          {balanced.name}
        </p>
        {photo && <Asked photo={photo} />}
      </td>
      <td>
        <Change before={fetched_bytes && fetched_bytes / most} after={after_bytes / most} />
      </td>
      <td className="num text-right text-soft">
        {fetched_bytes ? (
          <span title={exactWords(fetched_bytes)}>{sizeWords(fetched_bytes)}</span>
        ) : (
          'none'
        )}
      </td>
      <td
        className={`num text-right font-semibold ${balanced.is_too_heavy ? 'text-over' : ''}`}
        title={exactWords(after_bytes)}
      >
        <span className="inline-flex items-center gap-1.5 whitespace-nowrap">
          <FormatMark format={after.settings.format} />
          <span className="sr-only">{after.name}</span>
          {sizeWords(after_bytes)}
        </span>
      </td>
      <td className="num text-right">
        <span className="text-soft">{before ? likenessNumber(before.likeness) : '–'} → </span>
        <b
          className={`font-semibold ${balanced.is_too_unlike ? 'text-over' : ''}`}
          title={after.likeness_words}
        >
          {likenessNumber(after.likeness)}
        </b>
      </td>
      <td className="num text-small text-soft">±{balanced.uncertainty.toFixed(1)}</td>
    </tr>
  )
}

/** What the photo asks for: how much it counts, and the most that it may weigh. */
function Asked({ photo }: { photo: Photo }) {
  const act = useAct()
  const change = (shares: Shares) => act.mutate(() => api.changeShares([photo.id], shares))
  const weights = [...new Set([...WEIGHTS, String(photo.weight)])]
  return (
    <div className="mt-0.5 flex items-center gap-2 text-tiny">
      <Choice
        label={`Weight of ${photo.name}`}
        isLabelHidden
        className="w-22 px-1 py-0"
        value={String(photo.weight)}
        options={weights.map((value) => ({ value, text: `weight ${value}` }))}
        onChange={(value) => change({ weight: Number(value) })}
      />
      <Field
        label={`Most bytes of ${photo.name}`}
        isLabelHidden
        text={photo.most_bytes === null ? 'no limit' : `≤ ${limitWords(photo.most_bytes)}`}
        onEnter={async (text) => change({ most_bytes: await readMost(text) })}
        className="w-16 px-1 py-0"
      />
      <Field
        label={`Least likeness of ${photo.name}`}
        isLabelHidden
        text={photo.least_likeness === null ? 'any' : `≥ ${photo.least_likeness}`}
        read={(text) => (leastLikeness(text) === undefined ? null : text)}
        problem="A likeness up to 99, or nothing."
        onEnter={(text) => change({ least_likeness: leastLikeness(text) ?? null })}
        className="w-12 px-1 py-0"
      />
    </div>
  )
}

/** The bytes in a field, null for no limit. */
function readMost(text: string): Promise<number | null> {
  const words = text.replace('≤', '').trim()
  return readSize(words === 'no limit' ? '' : words)
}

/** The likeness in a field, null for any; undefined for what is neither. */
function leastLikeness(text: string): number | null | undefined {
  const words = text.replace('≥', '').trim()
  if (words === '' || words === 'any') return null
  return parseNumber(words, 0, 99) ?? undefined
}

/** From a line, before, to a box, after; both as shares of the heaviest photo. */
function Change({ before, after }: { before: number | null; after: number }) {
  const from = before ?? 0
  const left = `${Math.min(from, after) * 96}%`
  const width = `${Math.abs(after - from) * 96}%`
  return (
    <div aria-hidden className="relative h-6 border-b border-line">
      <div
        className={`absolute top-2 h-1 ${after >= from ? 'bg-navy' : 'bg-navy/40'}`}
        style={{ left, width }}
      />
      <div className="absolute top-1 h-3.5 w-0.5 bg-soft" style={{ left: `${from * 96}%` }} />
      <div
        className="absolute top-1 h-3.5 w-2 border-2 border-navy bg-sheet"
        style={{ left: `calc(${after * 96}% - 4px)` }}
      />
    </div>
  )
}
