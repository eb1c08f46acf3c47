import { useMutation } from '@tanstack/react-query'
import { type ReactNode, useId, useState } from 'react'

import { useIsTokenAsked } from '@/api/access'
import { api } from '@/api/client'
import { usePages } from '@/api/queries'
import mark from '@/mark.svg'
import { Button } from '@/ui/button'

/** Shows what it holds to who may see it, and asks others for the access token. */
export function Gate({ children }: { children: ReactNode }) {
  usePages() // the first question, whose answer tells
  return useIsTokenAsked() ? <Enter /> : children
}

function Enter() {
  const [token, setToken] = useState('')
  const tokenId = useId()
  const entered = useMutation({
    mutationFn: api.enter,
    onSuccess: () => window.location.reload(),
  })
  return (
    <main className="grid h-full place-items-center bg-desk">
      <form
        className="grid w-100 gap-4 rounded-lg border border-line bg-field p-6"
        onSubmit={(event) => {
          event.preventDefault()
          entered.mutate(token.trim())
        }}
      >
        <h1 className="flex items-center gap-2 text-title font-semibold">
          <img src={mark} alt="" className="size-6" /> Lean Parcel
        </h1>
        <p>
          This workspace is open to those who have its access token. It was shown where the server
          was started, or is in the file that it was given.
        </p>
        <div className="grid gap-1">
          <label htmlFor={tokenId}>Access token</label>
          <input
            id={tokenId}
            type="password"
            autoComplete="current-password"
            required
            aria-invalid={entered.isError}
            aria-describedby={`${tokenId}-problem`}
            className="rounded-md border border-edge bg-field px-2 py-1.5 font-mono"
            value={token}
            onChange={(event) => setToken(event.target.value)}
          />
          <p id={`${tokenId}-problem`} role="alert" className="min-h-[1.5em] text-over">
            {entered.error?.message}
          </p>
        </div>
        <Button
          type="submit"
          look="main"
          disabled={entered.isPending}
          className="justify-self-start"
        >
          Enter
        </Button>
      </form>
    </main>
  )
}
