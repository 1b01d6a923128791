import { listStep } from './keys';

/**
 * Arrows stay inside the list that has the focus: down and up (or j and k) move between its buttons. What they did here,
 * the page's own list
 * does not do as well (`Slate` looks at defaultPrevented).
 */
export function rows(list: HTMLElement) {
  function move(e: KeyboardEvent) {
    if (e.ctrlKey || e.metaKey || e.altKey) return;
    const step = listStep(e);
    const all = [...list.querySelectorAll<HTMLElement>('button[aria-pressed]')];
    const at = all.indexOf((e.target as HTMLElement).closest<HTMLElement>('button[aria-pressed]') ?? document.body);
    if (!step || at < 0) return;
    e.preventDefault();
    all[Math.max(0, Math.min(all.length - 1, at + step))].focus();
  }
  list.addEventListener('keydown', move);
  return { destroy: () => list.removeEventListener('keydown', move) };
}
