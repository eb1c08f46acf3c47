import { Component, type ReactNode } from 'react'

import { Button } from '@/ui/button'

/** A part that failed is tried again where it is another, by its name. */
type Props = { name?: string; children: ReactNode }
type State = { name: string | undefined; hasFailed: boolean }

/**
 * In the place of a part of the page that cannot be shown: a piece of it that could not be loaded,
 * since the server is gone or another version of it answers, or a fault of ours.
 */
export class Boundary extends Component<Props, State> {
  override state: State = { name: this.props.name, hasFailed: false }

  static getDerivedStateFromError(): Partial<State> {
    return { hasFailed: true }
  }

  static getDerivedStateFromProps({ name }: Props, state: State): State | null {
    return name === state.name ? null : { name, hasFailed: false }
  }

  override render() {
    if (!this.state.hasFailed) return this.props.children
    return (
      <main className="flex h-full items-center justify-center bg-desk">
        <div role="alert" className="max-w-105 space-y-3 border border-line bg-sheet p-5">
          <h1 className="text-lead font-semibold">This part of the page cannot be shown</h1>
          <p>
            It could not be loaded, or went wrong here. What you decided is kept by the server. Load
            the page anew; if that does not help, look whether the server is running.
          </p>
          <Button look="main" onClick={() => window.location.reload()}>
            Load it anew
          </Button>
        </div>
      </main>
    )
  }
}
