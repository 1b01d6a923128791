import { api, keepToken, Refused, take, type Schemas } from '../api/client';
import { localAt, setDateFormat } from '../time/when';

type Session = Schemas['SessionView'];

/** The signed-in user, and the current time. One for the whole page. */
class SessionState {
  current = $state<Session | null>(null);
  /** The current time in milliseconds; advances by itself. */
  now = $state(Date.now());
  /** Whether the server's clock is set instead of real. */
  clockSet = $state(false);
  /** How far the server's clock is ahead of this machine's. */
  #ahead = 0;

  constructor() {
    setInterval(() => (this.now = Date.now() + this.#ahead), 15_000);
  }

  get zone() {
    return this.current?.zone ?? 'America/Denver';
  }
  /** Wall-clock time of the company, or of a place. */
  wallClock(zone = this.zone) {
    return localAt(this.now, zone);
  }
  get today() {
    return this.wallClock().slice(0, 10);
  }
  may(right: string) {
    return this.current?.rights.includes(right) ?? false;
  }
  set(session: Session) {
    this.current = session;
    keepToken(session.token);
    this.setClock(session.now);
    this.setFormats(session);
  }
  setFormats(formats: Pick<Session, 'clock' | 'dateOrder'>) {
    setDateFormat({
      twelveHour: formats.clock === 'twelve_hour',
      dayFirst: formats.dateOrder === 'day_first',
      year: this.today.slice(0, 4),
    });
  }
  /** Syncs to the server's clock. */
  setClock(now: string) {
    this.#ahead = Date.parse(now) - Date.now();
    this.now = Date.now() + this.#ahead;
  }
  /** Loads the signed-in user; null when there is none. */
  async load(): Promise<Session | null> {
    const { data, response } = await api.GET('/api/session');
    if (response.status === 401) return null;
    if (!data) throw new Refused(`The server returned status ${response.status}.`, response.status, []);
    this.set(data);
    return data;
  }
  async signIn(login: string, password: string, code?: string) {
    const { data, error, response } = await api.POST('/api/session', { body: { login, password, code: code || null } });
    if (!data) {
      const body = error as { title?: string; errors?: { code: string; message: string; field?: string }[] };
      throw new Refused(body?.title ?? 'Steady Lark is not responding.', response.status, body?.errors ?? []);
    }
    this.set(data);
    return data;
  }
  async signOut() {
    await take(api.DELETE('/api/session')).catch(() => undefined);
    this.current = null;
    location.assign('/signin');
  }
}
export const session = new SessionState();
