/** How the name of a tab looks. */
export const TAB =
  'border-b-2 border-transparent py-2 text-soft hover:text-ink focus-visible:-outline-offset-2 data-[state=active]:border-navy data-[state=active]:font-semibold data-[state=active]:text-ink'
