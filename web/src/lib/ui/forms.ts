/**
 * One grammar of keys for every form, a `form` or an inner part marked `data-form`:
 * Enter in a field goes to the next required field that is empty, or does the form's main action when none is; Ctrl Enter does it from
 * any field; Escape in an inner part cancels it. A form's main action is its submission; an inner part marks its buttons `data-main`
 * and `data-cancel`.
 */
const regions = 'form, [data-form]';
const typed = (e: Element): e is HTMLInputElement =>
  e instanceof HTMLInputElement && !['checkbox', 'radio', 'file', 'button', 'submit', 'reset'].includes(e.type);

/** The required fields of a form that are empty, in order; those of inner parts are theirs. */
export function missing(region: Element): HTMLElement[] {
  const fields = region.querySelectorAll<HTMLElement>(
    ':is(input, textarea, button):is([aria-required=true], [required])',
  );
  return [...fields].filter(
    (f) =>
      f.closest(regions) === region &&
      !f.closest('[hidden], fieldset:disabled') &&
      (f instanceof HTMLButtonElement ? 'empty' in f.dataset : !(f as HTMLInputElement).value.trim()),
  );
}

/** Does a form's main action, or shows what keeps it from being done. */
export function act(region: Element) {
  if (region.querySelector('[aria-busy=true]')) return;
  if (region instanceof HTMLFormElement) region.requestSubmit();
  else region.querySelector<HTMLButtonElement>('[data-main]')?.click();
}

let pending: ReturnType<typeof setTimeout> | undefined;

function enter(field: HTMLInputElement, region: Element) {
  // A list's choice is taken first, and may open or focus something itself. Typing or clicking meanwhile cancels the move.
  pending = setTimeout(() => {
    if (document.activeElement !== field || field.getAttribute('aria-expanded') === 'true') return;
    const next = missing(region).find((f) => f !== field);
    if (next) next.focus();
    else act(region);
  }, 80);
}

function before(e: KeyboardEvent) {
  clearTimeout(pending);
  const region = (e.target as HTMLElement).closest?.(regions);
  if (!region || e.key !== 'Enter' || !(e.ctrlKey || e.metaKey)) return;
  e.preventDefault();
  e.stopPropagation();
  act(region);
}

function after(e: KeyboardEvent) {
  const target = e.target as HTMLElement;
  const region = target.closest?.(regions);
  if (!region) return;
  if (e.key === 'Enter' && !e.shiftKey && !e.altKey && !e.ctrlKey && !e.metaKey && typed(target)) {
    e.preventDefault();
    enter(target, region);
  } else if (e.key === 'Escape' && !e.defaultPrevented && region.matches('[data-form]')) {
    const cancel = region.querySelector<HTMLButtonElement>('[data-cancel]');
    if (!cancel) return;
    e.preventDefault();
    cancel.click();
  }
}

/** Installs the grammar for the whole application; returns how to remove it. */
export function keyGrammar() {
  // Sheets listen on the window, too: what a form takes is decided before them.
  window.addEventListener('keydown', before, true);
  document.addEventListener('keydown', after);
  const stay = () => clearTimeout(pending);
  document.addEventListener('input', stay, true);
  document.addEventListener('pointerdown', stay, true);
  return () => {
    window.removeEventListener('keydown', before, true);
    document.removeEventListener('keydown', after);
    document.removeEventListener('input', stay, true);
    document.removeEventListener('pointerdown', stay, true);
  };
}

/**
 * What closes gives the focus back to what had it when it opened, unless something else took it.
 * @returns what to call at its end
 */
export function keepOpener() {
  const opener = document.activeElement as HTMLElement | null;
  return () =>
    requestAnimationFrame(() => {
      const now = document.activeElement;
      if (opener?.isConnected && (!now || now === document.body)) opener.focus();
    });
}

/** What is opened takes the focus, in its first empty required field, and gives it back when it closes. */
export function takesFocus(node: HTMLElement, on = true) {
  if (!on) return;
  const giveBack = keepOpener();
  const frame = requestAnimationFrame(() =>
    (
      missing(node)[0] ?? node.querySelector<HTMLElement>('input, textarea, [data-select-trigger], [data-main]')
    )?.focus(),
  );
  return {
    destroy: () => {
      cancelAnimationFrame(frame);
      giveBack();
    },
  };
}
