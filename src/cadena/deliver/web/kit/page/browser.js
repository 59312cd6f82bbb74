// What the page asks of the browser itself: its address, its turn among other tabs, and to say something.

const SAYS_FOR = 8000;

/** Where on its server the app lies, where addresses are paths; without it they stand behind #. */
export const UNDER = document.documentElement.dataset.under;
/** What a page is told of itself by who drives it, and what is no part of an address. */
const DRIVEN = /([?&])(driven(?:=\w+)?)(?=&|$)&?/;

/** The address of the page for an address of the app, or for none. @param {string | null} address */
export function urlOf(address) {
  if (UNDER === undefined)
    return address === null ? location.pathname + location.search : `#${address}`;
  const url = UNDER + (address ?? '/').slice(1);
  const driven = DRIVEN.exec(location.search)?.[2];
  return driven ? `${url}${url.includes('?') ? '&' : '?'}${driven}` : url;
}

/** What of the page's address is the app's, where addresses are paths of the server. */
function pathAsked() {
  const path = location.pathname.startsWith(UNDER ?? '/')
    ? location.pathname.slice((UNDER ?? '/').length)
    : '';
  if (path === '' || /^(index|readable)\.html$/.test(path)) return '';
  return `/${path}${location.search.replace(DRIVEN, '$1').replace(/[?&]$/, '')}`;
}

/** The address that is asked for: letters that browsers write as bytes are letters again, and all else is decoded by who reads it. */
export function addressAsked() {
  const said = UNDER === undefined ? location.hash.slice(1) : pathAsked();
  return said.replace(/(%[89A-Fa-f][0-9A-Fa-f])+/g, (some) => {
    try {
      return decodeURIComponent(some);
    } catch {
      return some;
    }
  });
}

let written = '';

/**
 * Write where the app is into the browser's history, when it is not written so already: browsers
 * allow a hundred writes in ten seconds, and then throw. What they refuse is no reason to stop.
 * @param {'replaceState' | 'pushState'} how @param {number} at @param {string} [url]
 */
export function wrote(how, at, url) {
  const wanted = JSON.stringify([history.length, at, url ?? location.href]);
  if (how === 'replaceState' && wanted === written && history.state?.at === at) return;
  try {
    history[how]({ at }, '', url);
    written = JSON.stringify([history.length, at, url ?? location.href]);
  } catch (error) {
    if (!(error instanceof DOMException)) throw error;
  }
}

/** One tab after the other, where the browser knows turns. @param {string} name @param {() => void} act */
export function inTurn(name, act) {
  if (navigator.locks) navigator.locks.request(name, act);
  else act();
}

/** @type {ReturnType<typeof setTimeout> | undefined} */
let telling;

/** Say something that nobody asked for; what stays is said until it is so no more. @param {string} text @param {boolean} stays */
export function say(text, stays = false) {
  let told = document.querySelector('.told');
  if (!text && !(told instanceof HTMLElement && stays && told.dataset.stays)) return;
  if (!told) {
    told = Object.assign(document.createElement('p'), { className: 'told', role: 'status' });
    document.body.append(told);
  }
  /** @type {HTMLElement} */ (told).dataset.stays = stays && text ? 'yes' : '';
  told.textContent = text;
  clearTimeout(telling);
  if (!stays)
    telling = setTimeout(() => {
      /** @type {Element} */ (told).textContent = '';
    }, SAYS_FOR);
}

/** What was taken, where an address that leads nowhere is said (11). @template {{notes: any[]}} T @param {WiredApp} app @param {T} taken @returns {T} */
export function heard(app, taken) {
  const lost = taken.notes.find((each) => each.kind === 'fallback');
  if (lost) say(app.words('There is nothing at {address}', { address: lost.data.address }));
  return taken;
}
