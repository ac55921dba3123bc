import { randomBytes } from 'node:crypto';

/** A new identity: ten hexadecimal digits, as trials, plans and briefs have in their addresses. */
export function newId(): string {
  return randomBytes(5).toString('hex');
}
