// The app is left for an address outside of it, and waits as it is (7.10).

import { Refused, note } from './notes.js';

// biome-ignore lint/suspicious/noControlCharactersInRegex: no address has any.
const ALLOWED = /^(?:https?|mailto|tel):[^\s\x00-\x1f\x7f]+$/i;
const MAIL = /^[^\s@:/?#<>]+@[^\s@:/?#<>]+\.[^\s@:/?#<>]+$/;
const CALLED = /^(?![0-9]{4}-[0-9]{2}-[0-9]{2})\+?[0-9][0-9 ()/.-]{3,}[0-9]$/;
// biome-ignore lint/suspicious/noControlCharactersInRegex: no address has any.
const BARE = /^www\.[^\s\x00-\x1f\x7f]+$/i;

/** The address that a value leads to outside of the app, or null. @param {any} value @returns {string | null} */
export function outsideAddress(value) {
  const text = typeof value === 'string' ? value.trim() : '';
  if (ALLOWED.test(text)) return text;
  if (MAIL.test(text)) return `mailto:${text}`;
  if (CALLED.test(text)) return `tel:${text.replace(/[^0-9+]/g, '')}`;
  return BARE.test(text) ? `https://${text}` : null;
}

/** Leave for the address in a field of a record. @param {Session} session @param {Found | null} record @param {string} field @returns {Taken} */
export function leaveFor(session, record, field) {
  const address = outsideAddress(record?.value(field));
  if (address === null) throw new Refused('no address there', '', { field });
  return [{ ...session, phase: 'asleep' }, [note('left for', '', { address })]];
}

/** The host, and port if there is one, of a web address; nothing where it is none. @param {string} address */
export function hostOf(address) {
  const found = URL.parse(address);
  return found && /^https?:$/.test(found.protocol) ? found.host : '';
}

/** Whether an address is shown in a frame: one of a host that the app names, whole. @param {string} address @param {string[]} hosts */
export function isFramed(address, hosts) {
  const named = hosts.map((each) => each.toLowerCase());
  return /^https?:\/\/[^/?#@]*(?:[/?#]|$)/i.test(address) && named.includes(hostOf(address));
}
