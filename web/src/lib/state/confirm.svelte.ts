/** Asks for the password again, where the server wants it before money is sent or rights are changed. One dialog for the whole page. */
class Confirmation {
  /** Whether the dialog is open. */
  open = $state(false);
  #answer: ((confirmed: boolean) => void) | null = null;
  #asked: Promise<boolean> | null = null;

  /** Opens the dialog; false when it is closed without a password. Several who ask at once share it. */
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
