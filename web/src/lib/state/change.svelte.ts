import { untrack } from 'svelte';

type Key = string | number | boolean | null | undefined;

/**
 * Runs `act` at once and again whenever the value of `key` changes. An effect that reads `load.id` also runs when the
 * load is read again with the same id, and would clear what somebody is typing; this does not. What `act` reads is not
 * followed. `act` may return a function that cleans up.
 */
export function onChange(key: () => Key, act: () => void | (() => void)) {
  const value = $derived(key());
  $effect(() => {
    void value;
    return untrack(act);
  });
}
