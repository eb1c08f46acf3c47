import type { Hunk } from '@/api/client'

type Props = { hunk: Hunk; name: string; isTaken: boolean; onToggle: () => void }

/** Lines before and after, to be taken or left. */
export function HunkRow({ hunk, name, isTaken, onToggle }: Props) {
  return (
    <div className="border-t border-hair text-tiny">
      <label className="flex items-center justify-between gap-2 px-3 py-0.5 text-soft">
        <span>
          line {hunk.line}
          {hunk.is_literal && ', a name that may be no reference'}
        </span>
        <span className="flex items-center gap-1.5 font-semibold text-navy">
          <input
            type="checkbox"
            aria-label={`Take the change of line ${hunk.line} of ${name}`}
            checked={isTaken}
            onChange={onToggle}
          />
          Take
        </span>
      </label>
      <Lines sign="−" text={hunk.before} className="bg-gone" />
      <Lines sign="+" text={hunk.after} className={isTaken ? 'bg-come' : 'bg-sheet text-soft'} />
    </div>
  )
}

function Lines({ sign, text, className }: { sign: string; text: string; className: string }) {
  return (
    <pre className={`num px-3 leading-[1.45] break-all whitespace-pre-wrap ${className}`}>
      {text
        .replace(/\r?\n$/, '')
        .split('\n')
        .map((line) => `${sign} ${line.trim()}`)
        .join('\n')}
    </pre>
  )
}
