import type { Balance, Encode } from '@/api/client'
import { urls } from '@/api/urls'
import { likenessNumber, sizeWords } from '@/words'

/** Each photo of a balance as it is and as it would be, beside each other. */
export function BeforeAfter({ balance }: { balance: Balance }) {
  return (
    <ul
      aria-label="Before and after"
      className="grid grid-cols-[repeat(auto-fill,minmax(27rem,1fr))] gap-3 border-t border-line bg-desk p-3"
    >
      {balance.photos.map(({ photo_id, name, before, after }) => (
        <li key={photo_id} className="min-w-0">
          <p className="mb-1 truncate font-semibold">{name}</p>
          <div className="grid grid-cols-2 gap-2">
            <Side name={name} when="before" encode={before} />
            <Side name={name} when="after" encode={after} />
          </div>
        </li>
      ))}
    </ul>
  )
}

type Props = { name: string; when: 'before' | 'after'; encode: Encode | null }

function Side({ name, when, encode }: Props) {
  return (
    <figure className="min-w-0">
      {encode ? (
        <img
          src={urls.encodedFile(encode)}
          alt={`${name}, ${when}`}
          loading="lazy"
          className="aspect-[3/2] w-full object-contain"
        />
      ) : (
        <div className="flex aspect-[3/2] items-center justify-center border border-line text-soft">
          nothing taken
        </div>
      )}
      <figcaption className="num mt-1 text-small">
        {when}
        {encode && `: ${sizeWords(encode.size_bytes)}, likeness ${likenessNumber(encode.likeness)}`}
      </figcaption>
    </figure>
  )
}
