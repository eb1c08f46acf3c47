import { useId, useState } from 'react'

import { useReclaim, useRoom, useTerms } from '@/api/queries'
import { Button } from '@/ui/button'
import { Menu } from '@/ui/menu'
import { Titled } from '@/ui/titled'
import { sizeWords } from '@/words'

/** What the workspace takes on the disk, measured when it is asked for; giving some of it back. */
export function RoomSection() {
  const [isOpen, setIsOpen] = useState(false)
  const { is_read_only } = useTerms()
  const room = useRoom(isOpen).data
  if (is_read_only) return null
  return (
    <Titled
      title="Workspace"
      beside={
        <Menu
          label="More for the workspace"
          items={[{ text: 'Free disk space', onSelect: () => setIsOpen(true) }]}
        />
      }
    >
      {isOpen && room && <Freeing room={room} onClose={() => setIsOpen(false)} />}
    </Titled>
  )
}

type Room = NonNullable<ReturnType<typeof useRoom>['data']>

function Freeing({ room, onClose }: { room: Room; onClose: () => void }) {
  const [forgets, setForgets] = useState(false)
  const reclaim = useReclaim()
  const id = useId()
  const freed = room.free_bytes + (forgets ? room.removed_bytes : 0)
  return (
    <div className="space-y-2 px-1.5 text-body">
      <p>
        <b className="num">{sizeWords(room.free_bytes)}</b> of{' '}
        <span className="num">{sizeWords(room.file_bytes)}</span> can be freed: pixels and files
        that are made again when they are needed. Originals, what you took and what is offered stay.
      </p>
      {room.removed_bytes > 0 && (
        <p className="flex items-start gap-2">
          <input
            id={id}
            type="checkbox"
            className="mt-1 accent-navy"
            checked={forgets}
            onChange={(event) => setForgets(event.target.checked)}
          />
          <label htmlFor={id}>
            Forget removed photos too, <span className="num">{sizeWords(room.removed_bytes)}</span>.
            Undo cannot bring them back then.
          </label>
        </p>
      )}
      <div className="flex gap-1.5">
        <Button
          look="small"
          disabled={freed === 0 || reclaim.isPending}
          onClick={() => reclaim.mutate(forgets, { onSuccess: onClose })}
        >
          {reclaim.isPending ? 'Freeing …' : `Free ${sizeWords(freed)}`}
        </Button>
        <Button look="small" onClick={onClose}>
          Cancel
        </Button>
      </div>
    </div>
  )
}
