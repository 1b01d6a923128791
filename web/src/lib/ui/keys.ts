/** How an arrow, or j and k, moves in a list: 1 down, -1 up, 0 for any other key. */
export const listStep = (e: KeyboardEvent) =>
  e.key === 'ArrowDown' || e.key === 'j' ? 1 : e.key === 'ArrowUp' || e.key === 'k' ? -1 : 0;

/** Whether keys pressed here are typed into something, or choose from a list. */
export const takesText = (target: EventTarget | null) =>
  !!(target as HTMLElement | null)?.closest?.(
    'input, textarea, select, [data-select-trigger], [role=listbox], [contenteditable]',
  );

/** Whether a key was pressed alone and outside input fields: then a single letter is a command. */
export const isPlain = (e: KeyboardEvent) =>
  !e.ctrlKey && !e.metaKey && !e.altKey && !takesText(e.target) && !(e.target as HTMLElement).closest('[role=dialog]');
