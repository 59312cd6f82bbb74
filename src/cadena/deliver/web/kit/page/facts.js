// Facts and addresses of a detail.

import { factsShown } from '../column.js';
import { keyOrLabel } from '../form-pieces.js';
import { hostOf, isFramed, outsideAddress } from '../leaving.js';
import { carry, isEmpty, shown } from '../values.js';
import { h, rem } from './dom.js';
import { keyboardOf } from './forms.js';
import { isOfBrowser, pressed } from './links.js';

/** An address that is safe to follow is a link; what is pressed is opened beside the app. @param {Open} open @param {any} block @returns {Made[]} */
export function addressView(open, block) {
  const { app, session, entry } = open;
  const said = shown(app.recordOf(session, entry)?.value(block.field));
  const line = /^https?:\/\//i.test(said)
    ? h('a', { key: 'line', href: said, target: '_blank', rel: 'noopener noreferrer' }, said)
    : h('p', { key: 'line' }, said);
  return block.frame ? [line, frameOf(open, said, block.frame)] : [line];
}

/** What is at an address, in a frame that can reach nothing of the app; only of hosts that the app names (7.10). @param {Open} open @param {string} said @param {number} height */
function frameOf({ app }, said, height) {
  const address = outsideAddress(said) ?? '';
  const style = { height: rem(height) };
  if (!isFramed(address, app.platform.framesFrom ?? [])) {
    const words = app.words('Not shown here: {address}', { address: hostOf(address) || said });
    return h('p', { key: 'no frame', class: 'frame', style }, words);
  }
  return h('iframe', {
    key: address,
    class: 'frame',
    src: address,
    title: address,
    sandbox: 'allow-scripts',
    referrerpolicy: 'no-referrer',
    loading: 'lazy',
    style,
  });
}

/** Labels and values; a value that can be changed in place is a place to type. @param {Open} open @param {any} block */
export function factsView(open, block) {
  const { app, session, entry } = open;
  const record = app.recordOf(session, entry);
  const sayings = app.say(app.sourceOf(entry));
  return h(
    'dl',
    {},
    factsShown(app, entry, block, /** @type {any} */ (record)).map((name) => {
      const rule = sayings.standingOut(name, record);
      const isInPlace = block.inPlace?.includes(name);
      return h(
        'div',
        { key: name, class: isInPlace ? 'fact in-place' : 'fact' },
        h('dt', {}, sayings.label(name)),
        h(
          'dd',
          { class: rule ? (rule.colour ?? 'warning') : '' },
          factView(open, name, record, isInPlace, rule),
        ),
      );
    }),
  );
}

/** @param {Open} open @param {string} name @param {any} record @param {boolean} isInPlace @param {any} rule */
function factView(open, name, record, isInPlace, rule) {
  const { app, entry, on, send } = open;
  const source = app.sourceOf(entry);
  const sayings = app.say(source);
  const said = sayings.value(name, record);
  const word = rule ? `${rule.sign ?? '!'} ${rule.word ?? ''}`.trim() : '';
  const kind = app.asRead.get(source)?.types.get(name) ?? 'text';
  const change = (/** @type {any} */ to) =>
    send({ do: 'change', source, key: app.keyOf(entry), fields: { [name]: to } });
  if (isInPlace && kind === 'yes/no') {
    return h(
      'button',
      {
        class: 'switch',
        role: 'switch',
        'aria-checked': String(record.value(name) === true),
        'aria-label': sayings.label(name),
        'data-fact': name,
        onclick: () => change(record.value(name) !== true),
      },
      said,
    );
  }
  if (isInPlace) {
    const to = app.chosenAmong(source, name);
    const among = to ? app.records(open.session, to) : null;
    const raw = isEmpty(record.value(name)) ? '' : among ? said : shown(record.value(name));
    return h('input', {
      ...keyboardOf(among ? 'text' : kind, name),
      'aria-label': sayings.label(name) + (word && `, ${word}`),
      'data-fact': name,
      value: raw,
      onchange: (/** @type {any} */ { target }) => {
        const value = typed(target.value, kind);
        change((among && value !== null && keyOrLabel(app, among, value)) ?? value);
      },
    });
  }
  const whole = word ? `${said}  ${word}` : said;
  const outside = app.leaving(entry.screen).includes(name)
    ? outsideAddress(record.value(name))
    : null;
  if (outside !== null) {
    return h(
      'a',
      {
        class: 'link',
        href: outside,
        target: '_blank',
        rel: 'noopener noreferrer',
        'data-fact': name,
        'aria-label': `${sayings.label(name)}, ${whole}`,
        onclick: (/** @type {MouseEvent} */ event) => {
          if (isOfBrowser(event)) return;
          event.preventDefault();
          send({ do: 'open', ...on, fact: name });
        },
      },
      whole,
    );
  }
  const link = app.link(entry.screen, 'fact', name);
  if (!link) return whole;
  return pressed(
    open,
    link,
    null,
    {
      class: 'link',
      'data-fact': name,
      'aria-label': `${sayings.label(name)}, ${whole}`,
      onclick: () => send({ do: 'open', ...on, fact: name }),
    },
    whole,
  );
}

/** What was typed as a value of a type, where it is one, else as it was typed. @param {string} said @param {string} kind @returns {any} */
export function typed(said, kind) {
  if (said === '') return null;
  try {
    return carry(said, kind, true);
  } catch {
    return said;
  }
}
