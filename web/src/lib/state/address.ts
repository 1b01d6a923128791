import { goto } from '$app/navigation';
import { page } from '$app/state';

/**
 * Changes the query of the page's address in place: what is open, which tab.
 * @param next Values by name; null removes one.
 * @param others Names that are removed unless `next` has them.
 */
export function setQuery(next: Record<string, string | null>, others: readonly string[] = []) {
  const url = new URL(page.url);
  for (const name of others) if (!(name in next)) url.searchParams.delete(name);
  for (const [name, value] of Object.entries(next)) {
    if (value === null) url.searchParams.delete(name);
    else url.searchParams.set(name, value);
  }
  void goto(url, { keepFocus: true, noScroll: true, replaceState: true });
}
