/** Whether a key was pressed alone and outside input fields: then a single letter is a command. */
export const isPlain = (e: KeyboardEvent) =>
  !e.ctrlKey &&
  !e.metaKey &&
  !e.altKey &&
  !(e.target as HTMLElement).closest('input, textarea, select, [contenteditable], [role=dialog]');
