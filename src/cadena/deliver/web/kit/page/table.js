// The heads and the cells of a list in columns (7.5).

import { fieldsIn } from '../say.js';
import { HEADS, HIDDEN } from '../sizes.js';
import { orderByHead, sortsBy } from '../table-columns.js';
import { held, shown } from '../values.js';
import { h, placed } from './dom.js';

/** The heads of columns: a press takes an order, and once more the other way round (7.7). @param {Open} open @param {string} part @param {any} listing @param {ReturnType<typeof import('../table-columns.js').columnsShown>} columns */
export function headsView({ app, entry, on, send }, part, listing, columns) {
  const sayings = app.say(listing.source);
  const sort = held(entry.view.sort, part) ?? listing.sort ?? [];
  const leftOut = listing.columns
    .slice(columns.length)
    .map((/** @type {any} */ each) => headOf(sayings, each));
  const last = columns[columns.length - 1];
  return h(
    'li',
    { key: 'heads', class: 'heads' },
    columns.map(({ column, x, width }) => {
      const [head, field] = [headOf(sayings, column), sortsBy(column)];
      const taken = sort[0]?.field === field ? sort[0] : null;
      const way = taken && app.words(taken.descending ? 'descending' : 'ascending');
      const order = app.words('Order: {name}', { name: head });
      return h(
        'button',
        {
          key: `head ${column.shows}`,
          class: `head ${column.side ?? 'start'} ${taken ? 'current' : ''}`,
          'data-head': field,
          'aria-label': way ? `${order}, ${way}` : order,
          style: placed({ x, y: 0, width, height: HEADS }),
          onclick: () => send({ do: 'sort', ...on, list: part, by: orderByHead(sort, field) }),
        },
        taken ? `${head} ${taken.descending ? '↓' : '↑'}` : head,
      );
    }),
    leftOut.length > 0 &&
      h(
        'span',
        {
          key: 'hidden',
          class: 'head end',
          role: 'img',
          'aria-label': app.words('Not shown here: {names}', { names: leftOut.join(', ') }),
          title: leftOut.join(', '),
          style: placed({ x: last.x + last.width, y: 0, width: HIDDEN, height: HEADS }),
        },
        `+${leftOut.length}`,
      ),
  );
}

/** What stands over a column. @param {ReturnType<WiredApp['say']>} sayings @param {any} column */
const headOf = (sayings, column) => column.head || sayings.label(sortsBy(column));

/** The cells of a row, side by side; its key, where the first says nothing. @param {WiredApp} app @param {any} listing @param {Found} record @param {any} key @param {ReturnType<typeof import('../table-columns.js').columnsShown>} columns @param {number} from where they begin, in dp */
export function cellsOf(app, listing, record, key, columns, from) {
  const sayings = app.say(listing.source);
  const cells = columns.map(({ column }) => {
    const named = fieldsIn(column.shows);
    const said = named.length
      ? sayings.fill(column.shows, record)
      : sayings.value(column.shows, record);
    const fields = named.length ? named : [column.shows];
    const rule = fields.map((name) => sayings.standingOut(name, record)).find(Boolean);
    return { text: rule ? `${rule.sign ?? '!'} ${said}`.trim() : said, rule };
  });
  const [first, ...others] = cells.map(({ text, rule }, at) => {
    const word = rule?.word ? `, ${rule.word}` : '';
    return text && (at ? `${headOf(sayings, columns[at].column)}: ${text}${word}` : text);
  });
  const title = first || shown(key);
  return {
    title,
    isRuled: cells.some(({ rule }) => rule),
    name: [title, ...others].filter(Boolean).join(', '),
    parts: cells.map(({ text, rule }, at) => {
      const { column, x, width } = columns[at];
      const look = rule ? (rule.colour ?? 'warning') : '';
      return h(
        'span',
        {
          class: `cell ${column.side ?? 'start'} ${at ? look : 'row-title'}`,
          style: placed({ x: x - from, width }),
        },
        at ? text : title,
      );
    }),
  };
}
