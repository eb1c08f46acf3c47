/** Where a photo should be: it is still being looked for, or it is gone. */
export function NoPhoto({ isLoaded }: { isLoaded: boolean }) {
  return (
    <main aria-busy={!isLoaded} className="flex items-center justify-center bg-stage">
      {isLoaded && (
        <p className="rounded-md bg-sheet p-3">There is no such photo, or it was removed.</p>
      )}
    </main>
  )
}
