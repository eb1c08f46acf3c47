import type { Delivery } from '@/api/client'
import { urls } from '@/api/urls'
import { useWriteDelivery } from '@/api/delivery'
import { Menu } from '@/ui/menu'
import { sizeWords } from '@/words'

type Props = { delivery: Delivery; isReady: boolean }

/** The ways out beside the archive: the server's folder, and the packing list by itself. */
export function HandOver({ delivery, isReady }: Props) {
  const write = useWriteDelivery(delivery.page_id)
  const open = (address: string) => window.location.assign(address)
  const done = write.data
  return (
    <span className="flex items-center gap-2">
      <Menu
        label="More ways to hand over"
        trigger="Hand over …"
        items={[
          {
            text: 'Write into the server’s folder',
            hint: delivery.out_folder ?? 'Start the server with --out FOLDER to write there.',
            isDisabled: !isReady || delivery.out_folder === null,
            onSelect: () => write.mutate(),
          },
          'line',
          {
            text: 'Packing list for people',
            hint: 'HTML: what was done to each file',
            isDisabled: !isReady,
            onSelect: () => open(urls.packingList(delivery.page_id, 'html')),
          },
          {
            text: 'Packing list for programs',
            hint: 'JSON, with hashes; for lean-parcel verify and repoint',
            isDisabled: !isReady,
            onSelect: () => open(urls.packingList(delivery.page_id, 'json')),
          },
        ]}
      />
      {done && (
        <span role="status" className="text-soft">
          {done.files} files, {sizeWords(done.size_bytes)}, in {done.folder}
        </span>
      )}
    </span>
  )
}
