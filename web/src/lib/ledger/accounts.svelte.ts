import { api, take, type Schemas } from '../api/client';

/** The chart of accounts, loaded once and again when it changes. */
class ChartOfAccounts {
  all = $state.raw<Schemas['Account'][]>([]);
  async read() {
    this.all = await take(api.GET('/api/accounts'));
  }
  /** Accounts as options, children indented. */
  options(kinds: string[]): { value: string; label: string }[] {
    return this.all
      .filter((a) => !a.inactive && kinds.includes(a.kind) && !a.isControl)
      .map((a) => ({ value: a.code, label: `${a.code} ${a.parent ? '· ' : ''}${a.name}` }));
  }
  name(code: string) {
    return this.all.find((a) => a.code === code)?.name ?? code;
  }
}
export const chart = new ChartOfAccounts();

/** The bank account in Canadian dollars: its lines are in those. */
export const bankCad = '1010';
