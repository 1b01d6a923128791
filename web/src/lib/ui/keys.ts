/** Whether a key was pressed by itself and not while something is being typed: then a single letter is a command. */
export const isPlain = (e: KeyboardEvent) =>
  !e.ctrlKey &&
  !e.metaKey &&
  !e.altKey &&
  !(e.target as HTMLElement).closest('input, textarea, select, [contenteditable], [role=dialog]');
