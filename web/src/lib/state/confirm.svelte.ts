/** Asks for the password before payments and changes of rights. One dialog for the whole page. */
class Confirmation {
  /** Whether the dialog is open. */
  open = $state(false);
  #answer: ((confirmed: boolean) => void) | null = null;
  #asked: Promise<boolean> | null = null;

  /** Opens the dialog; false when it is closed without a password. Concurrent callers share it. */
  ask(): Promise<boolean> {
    this.open = true;
    return (this.#asked ??= new Promise<boolean>((resolve) => (this.#answer = resolve)));
  }
  done(confirmed: boolean) {
    this.open = false;
    this.#answer?.(confirmed);
    this.#answer = null;
    this.#asked = null;
  }
}
export const confirmation = new Confirmation();
