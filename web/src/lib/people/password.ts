import { Refused } from '$lib/api/client';

/** Refuses a new password that was not entered identically twice. */
export function requireSame(password: string, repeated: string) {
  if (password === repeated) return;
  const message = 'The two passwords differ: type the same one twice.';
  throw new Refused(message, 422, [{ code: 'password.differs', message, field: 'repeated' }]);
}
