/** Keys work on buttons, sliders and radio buttons too, but never in a field of text. */
export const UNLESS_TYPING = {
  enableOnFormTags: true,
  // Else Ctrl+Z would undo typing too, in a field that was left.
  preventDefault: true,
  ignoreEventWhen: ({ target }: KeyboardEvent) =>
    target instanceof HTMLSelectElement ||
    (target instanceof HTMLInputElement && target.type !== 'radio' && target.type !== 'checkbox'),
}
