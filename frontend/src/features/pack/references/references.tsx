import { useState } from 'react'
import { useDropzone } from 'react-dropzone'

import type { SiteText } from '@/api/client'
import { useReferences } from '@/api/delivery'
import { Button } from '@/ui/button'
import { FIELD } from '@/ui/fields/field'

import { Found } from './found'
import { readText } from './texts'
import { useKept } from './use-kept'

type Props = { pageId: number; isReady: boolean }

/** Pasted or dropped texts of a site, with references to the old files replaced. */
export function References({ pageId, isReady }: Props) {
  const [texts, setTexts] = useKept<SiteText[]>(`texts ${pageId}`, [])
  const [draft, setDraft] = useKept(`draft ${pageId}`, '')
  const [unread, setUnread] = useKept<string[]>(`unread ${pageId}`, [])
  const [asPictures, setAsPictures] = useState(false)
  const found = useReferences(pageId, texts, asPictures, isReady)
  const add = (files: readonly File[]) => {
    void Promise.all(files.map(readText)).then((read) => {
      const refused = files.filter((_, index) => read[index] === null).map(({ name }) => name)
      setUnread((before) => [...new Set([...before, ...refused])])
      const added = read.filter((text) => text !== null)
      if (added.length > 0) setTexts((texts) => [...texts, ...added])
    })
  }
  const find = (text: string) => {
    if (text.trim() === '') return
    setTexts(() => [{ name: '', text }])
    setDraft(() => '')
  }
  const beginAgain = () => {
    setTexts(() => [])
    setUnread(() => [])
  }
  const { getRootProps, isDragActive } = useDropzone({
    onDrop: add,
    noClick: true,
    noKeyboard: true,
    noDragEventsBubbling: true,
  })
  return (
    <section
      {...getRootProps({ role: 'region' })}
      aria-label="Old references"
      className={`flex min-h-0 flex-col border bg-sheet ${isDragActive ? 'border-navy outline-2 outline-navy' : 'border-line'}`}
    >
      <div className="flex items-center justify-between gap-2 border-b border-line px-3 py-1.5">
        <h3 className="font-semibold">Old references</h3>
        <label className="flex items-center gap-1.5 text-small text-soft">
          <input
            type="checkbox"
            checked={asPictures}
            onChange={(event) => setAsPictures(event.target.checked)}
          />
          each img becomes a picture
        </label>
        {texts.length > 0 && (
          <Button look="quiet" className="py-0" onClick={beginAgain}>
            Begin again
          </Button>
        )}
      </div>
      {texts.length === 0 ? (
        <form
          className="m-2 flex min-h-0 flex-1 flex-col gap-1.5"
          onSubmit={(event) => {
            event.preventDefault()
            find(draft)
          }}
        >
          <textarea
            aria-label="Text with old references"
            placeholder="Paste a text of the site that names the old files, or drop files here. You approve each change; nothing else is touched."
            className={`${FIELD} num min-h-0 flex-1 resize-none text-tiny`}
            value={draft}
            onChange={(event) => {
              const { inputType } = event.nativeEvent as InputEvent
              if (inputType === 'insertFromPaste' && draft === '') find(event.target.value)
              else setDraft(() => event.target.value)
            }}
          />
          {draft.trim() !== '' && (
            <Button type="submit" className="self-end">
              Find references
            </Button>
          )}
        </form>
      ) : (
        isReady &&
        found.data && (
          <Found key={texts.length} references={found.data} hasUnread={unread.length > 0} />
        )
      )}
      {texts.length > 0 && !isReady && (
        <p role="status" className="border-t border-line px-3 py-1.5 text-soft">
          As soon as all files are there: they are still being made, or nothing is taken.
        </p>
      )}
      {unread.length > 0 && (
        <p role="alert" className="border-t border-line px-3 py-1.5 text-over">
          {unread.join(', ')}: not read, since not in UTF-8; nothing is known of what is named
          there. lean-parcel repoint keeps other encodings.
        </p>
      )}
      {found.error && (
        <p role="alert" className="border-t border-line px-3 py-1.5 text-over">
          {found.error.message}
        </p>
      )}
    </section>
  )
}
