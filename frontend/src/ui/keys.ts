/** Keys work on buttons, sliders and radio buttons too, but never in a field of text. */
export const UNLESS_TYPING = {
  enableOnFormTags: true,
  ignoreEventWhen: ({ target }: KeyboardEvent) =>
    target instanceof HTMLSelectElement ||
    (target instanceof HTMLInputElement && target.type !== 'radio' && target.type !== 'checkbox'),
}
