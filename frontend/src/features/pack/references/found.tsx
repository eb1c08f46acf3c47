import { useState } from 'react'

import { api, type References, type RepointedText } from '@/api/client'
import { useAct } from '@/api/queries'
import { Button } from '@/ui/button'
import { sizeWords } from '@/words'

import { HunkRow } from './hunk-row'
import { keyOf, resultOf, saveText } from './texts'

/** What was found in texts: each change to approve, what was not found, and the result. */
export function Found({ references, hasUnread }: { references: References; hasUnread: boolean }) {
  const { texts, photos } = references
  const [turned, setTurned] = useState<ReadonlySet<string>>(new Set())
  const [copied, setCopied] = useState('')
  const act = useAct()
  // What may be no reference is taken only where somebody says so.
  const isTaken = (text: number, hunk: number) =>
    turned.has(keyOf(String(text), hunk)) === Boolean(texts[text]?.hunks[hunk]?.is_literal)
  const toggle = (text: number, hunk: number) => {
    const key = keyOf(String(text), hunk)
    const next = new Set(turned)
    if (!next.delete(key)) next.add(key)
    setTurned(next)
  }
  const hunks = texts.flatMap((text, index) =>
    text.hunks.map((hunk, number) => ({ hunk, isTaken: isTaken(index, number) })),
  )
  const named = new Set(hunks.flatMap(({ hunk }) => hunk.photo_ids))
  const stillNamed = new Set([
    ...hunks.filter((each) => !each.isTaken).flatMap(({ hunk }) => hunk.photo_ids),
    ...texts.flatMap(({ mentioned_ids }) => mentioned_ids),
  ])
  const never = photos.filter(({ id }) => !named.has(id) && !stillNamed.has(id))
  const noMore = photos.filter(({ id }) => named.has(id) && !stillNamed.has(id))
  const copy = (name: string, text: string) =>
    void navigator.clipboard.writeText(text).then(
      () => setCopied(`${name} copied.`),
      () => setCopied('The browser does not let it be copied.'),
    )
  return (
    <div className="min-h-0 flex-1 overflow-y-auto">
      <p role="status" className="px-3 py-1.5 text-small text-soft">
        {hunks.length === 0
          ? 'Nothing here names the old files.'
          : `${hunks.length} found, ${hunks.filter((each) => each.isTaken).length} taken. `}
        {copied}
      </p>
      {texts.map((text, index) => (
        <div key={index}>
          <TextHead
            text={text}
            onCopy={() =>
              copy(
                nameOf(text),
                resultOf(text, (hunk) => isTaken(index, hunk)),
              )
            }
            onSave={() =>
              saveText(
                text.name || 'text.txt',
                resultOf(text, (hunk) => isTaken(index, hunk)),
              )
            }
          />
          {text.hunks.map((hunk, number) => (
            <HunkRow
              key={number}
              hunk={hunk}
              name={nameOf(text)}
              isTaken={isTaken(index, number)}
              onToggle={() => toggle(index, number)}
            />
          ))}
          <Told
            words="To know"
            names={text.notes.map(({ line, words }) => `line ${line}: ${words}`)}
          />
          {text.alt_texts.map(({ photo_id, text: words }) => (
            <p
              key={photo_id}
              className="flex items-center justify-between gap-3 border-t border-hair px-3 py-1 text-small"
            >
              <span>
                <span className="text-soft">
                  Alternative text of {photos.find(({ id }) => id === photo_id)?.old_name} here:
                </span>{' '}
                {words}
              </span>
              <Button
                look="small"
                onClick={() => act.mutate(() => api.changeCode([photo_id], { alt_text: words }))}
              >
                Use it
              </Button>
            </p>
          ))}
          <Told words="Could be one of several photos, left alone" names={text.unclear} />
          <Told words="Not of this page, left alone" names={text.foreign} />
        </div>
      ))}
      <Told
        words={hasUnread ? 'Named nowhere in what was read' : 'Named nowhere'}
        names={never.map(({ old_name }) => old_name)}
      />
      <Told
        words={
          hasUnread
            ? 'Nothing that was read names these any more, but what was not read may'
            : 'Nothing names these any more; they stay until you remove them'
        }
        names={noMore.map(({ old_name, size_bytes }) => `${old_name} (${sizeWords(size_bytes)})`)}
      />
    </div>
  )
}

const nameOf = (text: RepointedText) => text.name || 'The text'

type HeadProps = { text: RepointedText; onCopy: () => void; onSave: () => void }

function TextHead({ text, onCopy, onSave }: HeadProps) {
  return (
    <div className="flex items-center justify-between gap-2 border-t border-line bg-hair px-3 py-1 text-small">
      <b className="truncate font-semibold">{nameOf(text)}</b>
      <span className="flex shrink-0 gap-2">
        <Button look="quiet" className="py-0 text-small" onClick={onCopy}>
          Copy the result
        </Button>
        <Button look="quiet" className="py-0 text-small" onClick={onSave}>
          Save it
        </Button>
      </span>
    </div>
  )
}

function Told({ words, names }: { words: string; names: string[] }) {
  if (names.length === 0) return null
  return (
    <p className="border-t border-hair px-3 py-1 text-small text-soft">
      {words}: <span className="num text-tiny text-ink">{names.join(', ')}</span>
    </p>
  )
}
