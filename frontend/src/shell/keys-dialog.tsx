import { useRef, useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'

import { Button } from '@/ui/button'
import { areSingleKeysOn, setSingleKeys, UNLESS_TYPING } from '@/ui/keys'

const KEYS = [
  ['Ctrl Z, Ctrl Shift Z', 'undo, redo: on the photo, or on the pages'],
  ['arrows', 'from one to the next in a list or table, which is one stop of Tab'],
  ['', 'move what is focused: a mark of the chart, the limit, a crop, the picture'],
  ['hold O', 'the original'],
  ['S, W, B, D', 'side by side, wipe, blink, difference'],
  ['X', 'the other picture, while blinking and in blind rounds'],
  ['T, Shift T', 'the next trouble spot, the one before'],
  ['M', 'mark an area: arrows move it, with Shift they size it'],
  ['F, 1, 2, 4', 'fit, 1:1, 2:1, 4:1'],
  ['Space', 'on the handle of a row: lift the photo; arrows move it, Space puts it down'],
  ['Ctrl A, Escape', 'select all photos of the page, or none'],
  ['C', 'copy the page code, on Pack'],
  ['?', 'these keys'],
] as const

/** Every key, and whether single letters do anything. */
export function KeysDialog() {
  const dialog = useRef<HTMLDialogElement>(null)
  const [isOn, setIsOn] = useState(areSingleKeysOn)
  const open = () => dialog.current?.showModal()
  useHotkeys('?', open, { ...UNLESS_TYPING, useKey: true })
  const turn = (to: boolean) => {
    setSingleKeys(to)
    setIsOn(to)
  }
  return (
    <>
      <Button look="quiet" onClick={open}>
        Keys
      </Button>
      <dialog
        ref={dialog}
        aria-labelledby="keys"
        className="m-auto max-h-[90vh] w-[min(30rem,92vw)] overflow-y-auto rounded-lg border border-ink bg-field p-5 text-body text-ink backdrop:bg-ink/40"
      >
        <h2 id="keys" className="text-lead font-semibold">
          Keys
        </h2>
        <dl className="mt-3 grid grid-cols-[9rem_minmax(0,1fr)] gap-x-3 gap-y-1.5">
          {KEYS.map(([keys, what]) => (
            <div key={what} className="contents">
              <dt className="num">{keys}</dt>
              <dd className="text-soft">{what}</dd>
            </div>
          ))}
        </dl>
        <form
          method="dialog"
          className="mt-4 flex items-center justify-between gap-3 border-t border-line pt-3"
        >
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              checked={isOn}
              onChange={(event) => turn(event.target.checked)}
            />
            Single keys work
          </label>
          <Button type="submit">Close</Button>
        </form>
      </dialog>
    </>
  )
}
