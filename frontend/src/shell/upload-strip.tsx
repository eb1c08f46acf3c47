import { type Refusal, type SentFile, useUploads } from '@/api/uploads'
import { Button } from '@/ui/button'

const SHOWN = 4

/** What is on its way, and what was refused. */
export function UploadStrip() {
  const { uploads, files, sentCount, refusals } = useUploads()
  if (files.length === 0 && refusals.length === 0) return null
  return (
    <section aria-label="Adding photos" className="border-b border-line bg-field px-4 py-2">
      {files.length > 0 && (
        <div className="flex items-start justify-between gap-4">
          <div className="min-w-0 grow">
            <p role="status" className="mb-1">
              <b className="font-semibold">Adding photos.</b> {sentCount} added, {files.length} to
              go
            </p>
            <ul className="flex flex-wrap gap-x-5 gap-y-1">
              {files.slice(0, SHOWN).map((file) => (
                <Coming key={file.id} file={file} onStop={() => uploads.stop(file.id)} />
              ))}
            </ul>
          </div>
          <Button onClick={() => uploads.stopAll()}>Stop adding</Button>
        </div>
      )}
      {refusals.length > 0 && (
        <Refused refusals={refusals} onClose={() => uploads.dismissRefusals()} />
      )}
    </section>
  )
}

function Coming({ file, onStop }: { file: SentFile; onStop: () => void }) {
  return (
    <li className="flex items-center gap-2 text-small">
      <span className="max-w-40 truncate">{file.name}</span>
      <progress
        aria-label={`${file.name} sent`}
        className="h-1 w-20"
        max={100}
        value={file.percent}
      />
      <span className="num w-16 text-soft">{progressWords(file)}</span>
      <Button look="quiet" aria-label={`Stop ${file.name}`} onClick={onStop}>
        Stop
      </Button>
    </li>
  )
}

function progressWords(file: SentFile): string {
  if (!file.isStarted) return 'waits'
  return file.percent < 100 ? `${file.percent} %` : 'is read'
}

function Refused({ refusals, onClose }: { refusals: readonly Refusal[]; onClose: () => void }) {
  return (
    <div role="alert" className="mt-1 flex items-start justify-between gap-4 text-over">
      <ul>
        {refusals.map(({ name, message }, index) => (
          <li key={index}>{message.includes(name) ? message : `${name}: ${message}`}</li>
        ))}
      </ul>
      <Button onClick={onClose}>Close</Button>
    </div>
  )
}
