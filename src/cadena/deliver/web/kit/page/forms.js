// A form's fields: places to type, choices and switches, and what is at fault (rule 10).

import { valueIn } from '../form-values.js';
import { choicesOf, hasInput, isSwitch, keyOrLabel, openingLink, saidIn } from '../form-pieces.js';
import { UNDER_WAY, writeAt, writeOf } from '../unsent.js';
import { isEmpty } from '../values.js';
import { h } from './dom.js';

const HINTS = /** @type {Record<string, string>} */ ({
  date: 'YYYY-MM-DD',
  'date and time': 'YYYY-MM-DDThh:mm:ssZ',
});

/** Words of a field's name that say what is typed in it. */
const NAMED = /** @type {[RegExp, string][]} */ ([
  [/e_?mail/, 'email'],
  [/phone|telephone|mobile|(^|_)(tel|fax)(_|$)/, 'tel'],
  [/(^|_)(url|web|website|site|link|homepage)(_|$)/, 'url'],
]);

/** The keyboard that a telephone shows for a field; the text stays what is typed. @param {string} kind @param {string} name */
export function keyboardOf(kind, name) {
  if (kind === 'whole number') return { inputmode: 'numeric' };
  if (kind === 'number') return { inputmode: 'decimal' };
  if (kind !== 'text') return {};
  const plain = name.replace(/([a-z])([A-Z])/g, '$1_$2').toLowerCase();
  const mode = NAMED.find(([words]) => words.test(plain))?.[1];
  return mode ? { inputmode: mode, autocapitalize: 'off', spellcheck: 'false' } : {};
}

/** @param {Open} open @param {Segment} segment */
export function fieldView(open, segment) {
  const { app, session, entry, screen } = open;
  const field = segment.block;
  const value = valueIn(app, session, entry, field.field);
  const label = field.label || app.say(screen.source).label(field.field);
  const fault = segment.lines?.[0];
  const id = `${entry.screen}-${open.index}-${field.field}`;
  const opens = openingLink(app, screen, field) !== null;
  const isTyped = hasInput(app, session, screen, field);
  const isSwitched = isSwitch(app, screen.source, field.field) && !field.choices?.length;
  return [
    h(
      'label',
      { key: 'label', id: `${id}-label`, for: isTyped || isSwitched ? id : null },
      field.required ? `${label} *` : label,
    ),
    isSwitched && switchView(open, field, value, id),
    opens && !isSwitched && chooserView(open, field, value, id, label, fault),
    isTyped && inputView(open, field, value, id, fault),
    isTyped && isDate(app, screen.source, field.field) && calendarView(open, field, value, label),
    h(
      'div',
      { key: 'choices', class: 'choices', role: 'group', 'aria-labelledby': `${id}-label` },
      choicesOf(app, session, entry, field).map(([key, words]) =>
        choiceView(open, field, value, key, words),
      ),
    ),
    fault &&
      h(
        'p',
        { key: 'fault', id: `${id}-fault`, class: 'fault', role: 'alert' },
        `✕ ${label} ${fault}`,
      ),
    ...theirsView(open, field, label),
  ];
}

/** What somebody else has changed of the same field, and whose counts (9.1). @param {Open} open @param {any} field @param {string} label */
function theirsView(open, field, label) {
  const { app, session, entry, screen } = open;
  const write = writeAt(session, entry);
  if (!write || !Object.hasOwn(write.theirs, field.field)) return [];
  const said = (/** @type {any} */ value) => saidIn(app, session, screen, field, value) || '–';
  const now = said(write.theirs[field.field]);
  const was = said(write.was[field.field] ?? null);
  return [
    h(
      'p',
      { key: 'theirs', class: 'fault', role: 'alert' },
      app.words('Now: {now}. Before: {was}.', { now, was }),
    ),
    whoseView(open, field.field, label),
  ];
}

/** Whose value counts: mine, or theirs. @param {Open} open @param {string} field @param {string} label */
const whoseView = ({ app, on, send }, field, label) =>
  h(
    'div',
    { key: 'whose', class: 'whose', role: 'group', 'aria-label': label },
    ['Mine', 'Theirs'].map((word) =>
      h(
        'button',
        {
          key: word,
          class: 'button plain',
          'data-settle': `${word.toLowerCase()} ${field}`.trim(),
          'aria-label': `${label}: ${app.words(word)}`,
          onclick: () =>
            send({ do: 'settle', ...on, take: word.toLowerCase(), ...(field && { field }) }),
        },
        app.words(word),
      ),
    ),
  );

/** What a form says of what it has sent (9.1). @param {Open} open @param {Segment} segment */
export function sentView(open, segment) {
  const write = writeAt(open.session, open.entry);
  return [
    h('p', { key: 'said', class: 'sent', role: 'status' }, segment.lines ?? []),
    write && Object.keys(write.theirs).length > 0 && whoseView(open, '', open.app.words('All')),
  ].filter((each) => each);
}

/** @param {Open} open @param {any} field @param {any} value @param {string} id */
function switchView({ app, on, send }, field, value, id) {
  const said = app.words(value === true ? 'yes' : value === false ? 'no' : 'not said');
  return h(
    'button',
    {
      key: 'switch',
      id,
      class: 'switch',
      role: 'switch',
      'aria-checked': String(value === true),
      'data-field': field.field,
      onclick: () => send({ do: 'type', ...on, field: field.field, to: value !== true }),
    },
    said,
  );
}

/** What opens the list that a field is filled from, and what empties it (15). @param {Open} open @param {any} field @param {any} value @param {string} id @param {string} label @param {string | undefined} fault */
function chooserView({ app, session, screen, on, send }, field, value, id, label, fault) {
  const said = saidIn(app, session, screen, field, value);
  return h(
    'span',
    { key: 'chooser', class: 'chooser' },
    h(
      'button',
      {
        key: 'open',
        id,
        'data-field': field.field,
        'data-open-field': field.field,
        'data-value': isEmpty(value) ? null : JSON.stringify(value),
        'aria-label': said ? `${label}, ${said}` : label,
        'aria-describedby': fault ? `${id}-fault` : null,
        class: said ? '' : 'hint',
        onclick: () => send({ do: 'open field', ...on, field: field.field }),
      },
      said || app.words('Choose…'),
    ),
    said &&
      !field.required &&
      h(
        'button',
        {
          key: 'empty',
          class: 'empty',
          'data-empty': field.field,
          'aria-label': app.words('Empty {label}', { label }),
          onclick: () => send({ do: 'type', ...on, field: field.field, to: null }),
        },
        '×',
      ),
  );
}

/** @param {Open} open @param {any} field @param {any} value @param {string} id @param {string | undefined} fault */
function inputView({ app, session, screen, on, send }, field, value, id, fault) {
  const kind = app.asRead.get(screen.source)?.types.get(field.field) ?? 'text';
  const isLong = (field.lines ?? 1) > 1;
  const among = field.choicesFrom ? app.records(session, field.choicesFrom) : null;
  // What somebody is typing stays as it is typed; else a record is said by its label.
  const here = /** @type {HTMLInputElement | null} */ (document.activeElement);
  const isTyping = among !== null && here?.id === id;
  return h(isLong ? 'textarea' : 'input', {
    key: 'input',
    id,
    'data-field': field.field,
    ...keyboardOf(kind, field.field),
    placeholder: HINTS[kind] ?? '',
    rows: isLong ? field.lines : null,
    required: Boolean(field.required),
    'aria-invalid': fault ? 'true' : null,
    'aria-describedby': fault ? `${id}-fault` : null,
    autocomplete: 'off',
    'data-value': among && !isEmpty(value) ? JSON.stringify(value) : null,
    value: isTyping ? here.value : saidIn(app, session, screen, field, value),
    oninput: (/** @type {any} */ { target }) => {
      // What is typed as a record is called is that record.
      const named = among && target.value ? keyOrLabel(app, among, target.value) : null;
      send({ do: 'type', ...on, field: field.field, to: named ?? (target.value || null) });
    },
  });
}

/** @param {WiredApp} app @param {string} source @param {string} name */
const isDate = (app, source, name) => app.asRead.get(source)?.types.get(name) === 'date';

/** A calendar to choose a date from; it can be typed as well. @param {Open} open @param {any} field @param {any} value @param {string} label */
function calendarView({ app, on, send }, field, value, label) {
  return h(
    'span',
    { key: 'calendar', class: 'calendar' },
    h(
      'button',
      {
        key: 'open',
        'aria-label': `${label}: ${app.words('choose a date')}`,
        onclick: (/** @type {any} */ event) => event.currentTarget.nextSibling.showPicker(),
      },
      '▾',
    ),
    h('input', {
      key: 'picked',
      type: 'date',
      tabindex: -1,
      'aria-hidden': 'true',
      value: typeof value === 'string' && /^\d{4}-\d\d-\d\d$/.test(value) ? value : '',
      onchange: (/** @type {any} */ event) =>
        send({ do: 'type', ...on, field: field.field, to: event.target.value || null }),
    }),
  );
}

/** @param {Open} open @param {any} field @param {any} value @param {any} key @param {string} words */
function choiceView({ on, send }, field, value, key, words) {
  const isChosen = key === value;
  return h(
    'button',
    {
      key: JSON.stringify(key),
      class: 'choice',
      'aria-pressed': String(isChosen),
      'data-choice': field.field,
      'data-key': JSON.stringify(key),
      onclick: () => send({ do: 'type', ...on, field: field.field, to: isChosen ? null : key }),
    },
    words,
  );
}

/** Save and cancel, kept at the bottom of a form. @param {Open} open */
export const saveBar = (open) =>
  h('footer', { key: 'bottom', class: 'bottom bar save' }, saveButtons(open).reverse());

/** Save, and cancel under it. @param {Open} open */
export function saveButtons({ app, session, index, screen, on, send }) {
  const state = writeOf(session, index)?.state ?? '';
  const isSent = UNDER_WAY.includes(state);
  return [
    h(
      'button',
      {
        key: 'save',
        class: 'button',
        'data-save': true,
        disabled: isSent || state === 'quicker',
        onclick: () => send({ do: 'save', ...on }),
      },
      app.words(isSent ? 'Being sent…' : (screen.saveLabel ?? 'Save')),
    ),
    h(
      'button',
      {
        key: 'cancel',
        class: 'button plain',
        'data-cancel': true,
        onclick: () => send({ do: 'cancel', ...on }),
      },
      app.words('Cancel'),
    ),
  ];
}
