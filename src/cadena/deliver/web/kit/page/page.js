// A wired app in a browser: its window, its history, what it keeps, and what it draws.

import { WiredApp } from '../app.js';
import { addressNow } from '../addresses.js';
import { columnOf } from '../column.js';
import { started } from '../app-lifecycle.js';
import { displayOf, focusOf } from '../display.js';
import { canGoForward } from '../forward.js';
import { SURVIVES_COLD, SURVIVES_KILL } from '../lifetimes.js';
import { savedState } from '../saved-state.js';
import { entriesOf, sized } from '../session.js';
import { start, step } from '../step.js';
import { LEAST_TEXT, MOST_TEXT } from '../window-change.js';
import { UNDER, addressAsked, heard, inTurn, say, urlOf, wrote } from './browser.js';
import { isRightToLeft, patch } from './dom.js';
import { frameView } from './frame.js';
import { Store, labelOf } from './store.js';
import { unheard } from '../writing.js';

const OPENS = new Set([
  'choose',
  'neighbour',
  'press',
  'act',
  'open',
  'enter',
  'move',
  'section',
  'save',
  'slide list',
  'menu',
  'open sections',
]);
/** Ms after which what happened is kept, and in which more may happen; leaving keeps at once. */
const KEEPS_AFTER = 200;
const WARMS_AFTER = 300;
/** Ms after which an app is awake that was to be left, and is still seen. */
const COMES_BACK_AFTER = 400;
/** How far a finger goes across at least, in px, to swipe. */
const SWIPES_FROM = 60;
const ELSEWHERE = '{label}: changed in another tab as well. What was changed here, later, counts.';

/** A running page. */
export class Page {
  /**
   * @param {any} described what the modules of the app say
   * @param {Record<string, any[]>} records
   * @param {HTMLElement} root
   * @param {Own} own what is drawn otherwise
   */
  constructor(described, records, root, own = {}) {
    this.app = new WiredApp(described, records);
    this.root = root;
    this.own = own;
    this.isPrinting = false;
    const driven = new URLSearchParams(location.search).get('driven');
    this.isDriven = driven !== null;
    /** Who drives it says whether anything is really sent. */
    this.mayWrite = driven === null || driven === 'writes';
    this.store = new Store(`${described.name} ${UNDER ?? location.pathname}`);
    /** @type {import('./service.js').Service | undefined} */
    this.service = undefined;
    /** @type {typeof import('./moving.js').moving | undefined} */
    this.moving = undefined;
    /** @type {Session} */
    this.session = started(this.app, this.windowNow(null));
    this.steps = 0;
    /** @type {ReturnType<typeof setTimeout> | undefined} */
    this.keeping = undefined;
    // How many entries of the browser's history lie below this one, and are the app's to go back along.
    this.at = 1;
    this.isReturning = false;
  }

  /** Begin as the person left it, or anew, and at the address that was asked for. */
  run() {
    document.documentElement.lang ||= this.app.app.locale || 'en';
    const address = addressAsked();
    this.comeBack();
    const isReload =
      history.state?.at !== undefined && this.store.read(sessionStorage, 'kept') !== null;
    if (history.state?.at > 0) {
      this.at = history.state.at;
    } else {
      wrote('replaceState', 0);
      wrote('pushState', 1);
    }
    // What was open comes back whole on a reload, whatever the address says of it.
    if (address && !isReload && address !== addressNow(this.app, this.session))
      this.session = heard(
        this.app,
        step(this.app, this.session, { do: 'visit', address }),
      ).session;
    this.listen();
    this.show();
    this.goOn();
    this.bringMore();
    setTimeout(() => this.warm(), WARMS_AFTER);
  }

  /** What not every app needs is brought once the first picture is there. */
  bringMore() {
    const { sources = [] } = this.app.app;
    if (sources.some((/** @type {any} */ each) => each.served === 'service')) {
      import('./service.js').then(({ Service }) => {
        const tell = (/** @type {Record<string, any>} */ event) => this.send(event);
        this.service = new Service(this.app, tell, this.store, this.session, this.mayWrite);
        this.goOn();
      });
    }
    if (!this.isDriven) {
      import('./moving.js').then(({ moving }) => {
        this.moving = moving;
      });
    }
  }

  /** Find the rows of each section's list before somebody goes there: the first look is the dearest. */
  warm() {
    for (const { entries } of Object.values(this.session.chains)) {
      if (entries.length) columnOf(this.app, this.session, entries[0], this.session.window.width);
    }
  }

  /** A reload comes back from what was kept in this tab; a new tab is a cold start (6). */
  comeBack() {
    const kept = this.store.read(sessionStorage, 'kept');
    const { window, ...world } = this.store.world(this.app, this.session);
    const [fresh] = start(this.app, this.windowNow(this.isDriven ? (window ?? null) : null));
    const ended = {
      ...fresh,
      phase: /** @type {const} */ ('killed'),
      chains: {},
      section: '',
      ...world,
    };
    const stored = this.store.stored();
    const text = typeof kept?.state === 'string' ? kept.state : stored;
    const event = { do: kept ? 'restore' : 'relaunch' };
    const isAnew = !kept && !text && !Object.keys(world.changes).length;
    this.session = isAnew ? fresh : step(this.app, { ...ended, kept: text }, event).session;
  }

  listen() {
    addEventListener('popstate', (event) => this.moved(event));
    addEventListener('resize', () => this.resized());
    // On paper all rows of a list are there, and not only those in view.
    for (const [event, isPrinting] of /** @type {const} */ ([
      ['beforeprint', true],
      ['afterprint', false],
    ]))
      addEventListener(event, () => {
        this.isPrinting = isPrinting;
        this.show();
      });
    addEventListener('pagehide', () => this.keep());
    addEventListener('pageshow', () => this.join());
    addEventListener('storage', ({ key }) => {
      if (this.store.isShared(key)) this.join();
    });
    document.addEventListener('cadena:event', (event) =>
      this.send(/** @type {CustomEvent} */ (event).detail),
    );
    document.addEventListener('keydown', (event) => this.pressed(event));
    document.addEventListener('touchstart', (event) => this.swiped(event), { passive: true });
    document.addEventListener('visibilitychange', () => {
      if (!this.isDriven) this.send({ do: document.hidden ? 'sleep' : 'wake' });
    });
  }

  /** The browser's back and forward are the app's (4, 17); an address that was typed is visited (11). @param {PopStateEvent} event */
  moved(event) {
    const at = event.state?.at;
    if (this.isReturning) {
      this.isReturning = false;
      this.tell();
      return;
    }
    if (at === undefined) {
      this.at += 1;
      wrote('replaceState', this.at);
      this.send({ do: 'visit', address: addressAsked() });
      return;
    }
    const steps = at - this.at;
    this.at = at;
    for (let step = 0; step < Math.abs(steps); step += 1) {
      if (steps < 0 && this.session.phase === 'running' && !(step && this.session.question))
        this.send({ do: 'back' });
      if (steps > 0 && canGoForward(this.session)) this.send({ do: 'forward' });
    }
    this.tell();
    if (this.session.phase === 'left' && !this.isDriven) history.go(-this.at - 1);
    else if (this.at === 0) this.deepenBelow();
  }

  /** One more entry to go back along, below those that can be gone forward to. */
  deepenBelow() {
    this.deepen();
    const ahead = this.session.ahead.length;
    for (let each = 0; each < ahead; each += 1) this.deepen();
    if (!ahead) return;
    this.at -= ahead;
    this.isReturning = true;
    history.go(-ahead);
  }

  /** One more entry to go back along. */
  deepen() {
    this.at += 1;
    wrote('pushState', this.at);
  }

  /** In how many backs the app is left, as far as that matters. */
  backsToLeave() {
    let { session } = this;
    let count = 0;
    for (; count <= this.at && session.phase === 'running'; count += 1) {
      const after = step(this.app, session, { do: 'back' });
      session = after.session.question
        ? step(this.app, after.session, { do: 'answer', yes: true }).session
        : after.session;
    }
    return count;
  }

  /** @param {KeyboardEvent} event */
  pressed(event) {
    const by = event.altKey && { ArrowUp: -1, ArrowDown: 1 }[event.key];
    if (by && this.root.querySelector(`[data-neighbour="${by}"]`)) {
      event.preventDefault();
      this.send({ do: 'neighbour', by });
    }
    if (event.key !== 'Escape') return;
    const { menu, sectionsOpen } = this.session;
    const display = displayOf(this.app, this.session);
    if (menu) this.send({ do: 'close menu' });
    else if (sectionsOpen || display.slid || display.layerAs === 'popover')
      this.send({ do: 'press outside' });
    else if (display.layer) history.back();
  }

  /** A swipe across a detail goes on to the next, or back to the one before (16). @param {TouchEvent} began */
  swiped(began) {
    const pane = /** @type {Element} */ (began.target).closest?.('[data-pane]');
    const isAcross = /** @type {Element} */ (began.target).closest?.('[data-across]');
    if (began.touches.length !== 1 || isAcross || !pane?.querySelector('[data-neighbour]')) return;
    const [{ clientX, clientY }] = began.touches;
    const ended = (/** @type {TouchEvent} */ event) => {
      const [touch] = event.changedTouches;
      const [x, y] = [touch.clientX - clientX, touch.clientY - clientY];
      if (Math.abs(x) < SWIPES_FROM || Math.abs(y) > Math.abs(x) / 2) return;
      const isOnward = x < 0 === (document.documentElement.dir !== 'rtl');
      const entry = Number(/** @type {HTMLElement} */ (pane).dataset.entry);
      this.send({ do: 'neighbour', entry, by: isOnward ? 1 : -1 });
    };
    document.addEventListener('touchend', ended, { once: true });
  }

  resized() {
    const { window } = this.session;
    const now = this.windowNow(window);
    if (now.text !== window.text) this.send({ do: 'text', size: now.text });
    if (now.width === window.width && now.height === window.height) return;
    const isTurned =
      now.width === window.height && now.height === window.width && window.fold === null;
    this.send(
      isTurned
        ? { do: 'turn' }
        : { do: 'resize', width: now.width, height: now.height, fold: now.fold },
    );
  }

  /** The window as the browser has it: its size, where it folds, how large its text is. @param {AppWindow | null} before */
  windowNow(before) {
    const segments = /** @type {any} */ (globalThis).viewport?.segments ?? [];
    const fold =
      segments.length === 2 && segments[0].top === segments[1].top ? segments[0].width : null;
    const size = parseFloat(getComputedStyle(document.documentElement).fontSize) / 16;
    const text = Math.min(MOST_TEXT, Math.max(LEAST_TEXT, size));
    const isSame = before && before.width === innerWidth && before.height === innerHeight;
    if (this.isDriven && isSame) return before;
    return {
      ...sized(innerWidth, innerHeight, fold),
      text: this.isDriven && before ? before.text : text,
      rtl: before?.rtl ?? isRightToLeft(),
    };
  }

  /** What happens is taken, and the page agrees with what is so then. @param {Record<string, any>} event */
  send(event) {
    const before = this.session;
    const { session, notes } = heard(this.app, step(this.app, before, event));
    this.session = session;
    this.steps += 1;
    // Browsers skip entries that nobody's press has made: each press that leads on makes its own.
    if (OPENS.has(event.do) && session !== before && this.backsToLeave() > this.at)
      this.deepenBelow();
    if (notes.some((each) => each.kind === 'handed out')) {
      import('./hand-out.js').then(({ handOut }) => handOut(this.app, session, notes));
    }
    const left = notes.find((each) => each.kind === 'left for');
    if (left && !this.isDriven) this.goOut(left.data?.address);
    if (event.do === 'kill') {
      this.keepText(unheard(this.app, before));
    } else if (event.do === 'restore' || event.do === 'relaunch') {
      sessionStorage.removeItem(`${this.store.name} kept`);
    }
    if (this.moving) this.moving(this, before, event, () => this.show());
    else this.show();
    this.goOn();
  }

  /** Leave for an address beside the app, which goes on once it is seen again, or was never left. @param {any} address */
  goOut(address) {
    if (/^https?:/i.test(address)) open(address, '_blank', 'noopener,noreferrer');
    else location.assign(address);
    setTimeout(() => {
      if (!document.hidden && this.session.phase === 'asleep') this.send({ do: 'wake' });
    }, COMES_BACK_AFTER);
  }

  /** What goes on by itself: calls, and time. */
  goOn() {
    this.service?.callFor(this.session);
    this.service?.writeFor(this.session);
    this.keeping ??= setTimeout(() => inTurn(this.store.name, () => this.keep()), KEEPS_AFTER);
    clearTimeout(this.waiting);
    const { passing, requests } = this.session;
    const waits = [...requests, ...this.session.writes];
    const due = waits.flatMap((each) => (each.due === null ? [] : [each.due]));
    if (passing) due.push(passing.until);
    if (due.length && !this.isDriven) {
      const ms = Math.max(1, Math.min(...due) - this.session.clock);
      this.waiting = setTimeout(() => this.send({ do: 'wait', ms }), ms);
    }
  }

  /** Draw what is so, and bring scrolling and the focus there. */
  show() {
    const { window } = this.session;
    const html = document.documentElement;
    html.dir = window.rtl ? 'rtl' : 'ltr';
    if (this.isDriven) html.style.fontSize = `${16 * window.text}px`;
    patch(
      this.root,
      frameView({
        app: this.app,
        session: this.session,
        now: () => this.session,
        send: (event) => this.send(event),
        back: () => history.back(),
        own: this.own,
        isPrinting: this.isPrinting,
      }),
    );
    this.scrollThere();
    this.focusThere();
    this.tell();
  }

  scrollThere() {
    const unit = parseFloat(getComputedStyle(document.documentElement).fontSize) / 16;
    const sign = document.documentElement.dir === 'rtl' ? -1 : 1;
    for (const each of this.root.querySelectorAll('[data-scroll], [data-across]')) {
      const element = /** @type {HTMLElement} */ (each);
      const to = Number(element.dataset.to) * unit;
      if (element.hasAttribute('data-scroll') && Math.abs(element.scrollTop - to) >= 1)
        element.scrollTop = to;
      if (element.hasAttribute('data-across') && Math.abs(element.scrollLeft * sign - to) >= 1)
        element.scrollLeft = to * sign;
    }
  }

  /** The focus is on the screen that has it, or on what lies over it. */
  focusThere() {
    const over = this.root.querySelector('[data-question], .menu');
    const index = focusOf(this.app, this.session);
    const entry = index === null ? undefined : entriesOf(this.session)[index];
    const screen =
      entry && [...this.root.querySelectorAll(`[data-pane][data-entry="${index}"]`)].at(-1);
    const wanted = over ?? screen;
    const isDividing = !over && document.activeElement?.hasAttribute('data-divider');
    if (!wanted || isDividing) return;
    const isInside = wanted.contains(document.activeElement);
    const moved = isInside
      ? this.movedAlong(wanted)
      : (wanted.querySelector('.row.last a.contents, .row.last button.contents') ??
        wanted.querySelector('.contents[tabindex="0"]') ??
        wanted.querySelector('button, a[href], input, textarea') ??
        wanted);
    if (moved && (over || this.hasActed || isInside))
      /** @type {HTMLElement} */ (moved).focus({ preventScroll: true });
    this.hasActed = true;
  }

  /** The focus goes along with the row that a list is at. @param {Element} pane */
  movedAlong(pane) {
    const row = document.activeElement?.closest('[data-list] .contents');
    return row && /** @type {HTMLElement} */ (row).tabIndex < 0
      ? row.closest('[data-list]')?.querySelector('.contents[tabindex="0"]')
      : null;
  }

  /** What the page says of itself: to the address bar, the title, and to who drives it. */
  tell() {
    const { session, app, root } = this;
    const address = session.phase === 'killed' ? null : addressNow(app, session);
    // On the way back to where it is, the browser is still at what can be gone forward to.
    if (session.phase === 'running' && !this.isReturning)
      wrote('replaceState', this.at, urlOf(address));
    const entries = entriesOf(session);
    const top = entries[entries.length - 1];
    document.title = top ? `${app.titleOf(session, top)} · ${app.app.name}` : app.app.name;
    Object.assign(root.dataset, {
      app: app.app.name,
      phase: session.phase,
      section: session.section,
      steps: String(this.steps),
      address: address ?? '',
    });
  }

  /** Take in what other tabs have kept; where both differ the later counts, and it is said. */
  join() {
    if (this.session.phase === 'killed') return;
    const { events, odd } = this.store.since(this.app, this.session);
    for (const event of events) this.send(event);
    if (odd.length) {
      const [source, key] = odd[0];
      const { app } = this;
      const first = labelOf(app, this.session, source, key);
      const more = { label: first, count: odd.length - 1 };
      const label = more.count ? app.words('{label} and {count} more', more) : first;
      say(app.words(ELSEWHERE, { label }));
    }
  }

  /** Keep what outlives the process: in this tab, for the next one, and what is so of the records. */
  keep() {
    clearTimeout(this.keeping);
    this.keeping = undefined;
    const { session } = this;
    if (session.phase === 'killed') return;
    this.join();
    clearTimeout(this.keeping);
    this.keeping = undefined;
    // Whoever drives it ends it: what the stand-in was asked for by then it may have done.
    this.keepText(this.isDriven ? unheard(this.app, this.session) : this.session);
  }

  /** @param {Session} session */
  keepText(session) {
    const isKept = this.store.keep(
      session,
      savedState(this.app, session, SURVIVES_COLD),
      this.isDriven ? { window: session.window } : {},
    );
    const isHere = this.store.write(sessionStorage, 'kept', {
      state: savedState(this.app, session, SURVIVES_KILL),
    });
    if (isKept && isHere) say('', true);
    else
      say(
        this.app.words(
          'The browser has no room to keep what was changed: it is lost when this tab is closed.',
        ),
        true,
      );
  }
}
