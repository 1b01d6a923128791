/** The style of all input fields. */
export const box =
  'w-full min-w-0 rounded-md border border-line bg-panel px-2.5 text-base text-ink hover:border-mute focus:border-lark focus:outline-2 focus:outline-offset-0 focus:outline-lark aria-[invalid=true]:border-ember disabled:opacity-60';
