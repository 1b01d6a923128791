import { toast } from 'svelte-sonner';
import { Refused } from '../api/client';

/** Reports what was done, with Undo for ten seconds. */
export function showDone(text: string, undo?: () => Promise<unknown>) {
  toast(text, {
    duration: undo ? 10_000 : 5000,
    action: undo
      ? {
          label: 'Undo',
          onClick: () =>
            void undo()
              .then(() => toast('Undone.'))
              .catch(showError),
        }
      : undefined,
  });
}

/** Reports a refusal, in the server's own sentence. */
export function showError(error: unknown) {
  toast.error(error instanceof Refused ? error.message : 'Something went wrong on this page. Reload it.', {
    duration: 8000,
  });
  if (!(error instanceof Refused)) console.error(error);
}
