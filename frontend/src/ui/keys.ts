/** Keys work on buttons, sliders and radio buttons too, but never in a field of text, and never where
 * something else has used them: Escape closes a menu and nothing behind it. */
export const UNLESS_TYPING = {
  enableOnFormTags: true,
  // Else Ctrl+Z would undo typing too, in a field that was left.
  preventDefault: true,
  ignoreEventWhen: ({ target, defaultPrevented }: KeyboardEvent) =>
    defaultPrevented ||
    target instanceof HTMLSelectElement ||
    target instanceof HTMLTextAreaElement ||
    (target instanceof HTMLInputElement && target.type !== 'radio' && target.type !== 'checkbox'),
}
