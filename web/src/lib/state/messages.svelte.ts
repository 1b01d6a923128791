import { toast } from 'svelte-sonner';
import { Refused } from '../api/client';

/** Says what was done, with a way back for ten seconds. */
export function told(text: string, undo?: () => Promise<unknown>) {
  toast(text, {
    duration: undo ? 10_000 : 5000,
    action: undo
      ? {
          label: 'Undo',
          onClick: () =>
            void undo()
              .then(() => toast('Undone.'))
              .catch(wentWrong),
        }
      : undefined,
  });
}

/** Says what was refused, in the server's own sentence. */
export function wentWrong(error: unknown) {
  toast.error(error instanceof Refused ? error.message : 'Something went wrong on this page. Reload it.', {
    duration: 8000,
  });
  if (!(error instanceof Refused)) console.error(error);
}
