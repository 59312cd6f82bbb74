// What a page shows, read off its elements by what they say of themselves (docs/driving.md).

const root = document.querySelector('[data-app]');
if (!root) return null;
const isRtl = document.documentElement.dir === 'rtl';
const unit = parseFloat(getComputedStyle(document.documentElement).fontSize) / 16;
const edge = root.getBoundingClientRect();
const round = (value) => Math.round(value * 100) / 100;
const text = (element) => (element ? element.textContent.trim() : '');
const all = (at, what) => [...at.querySelectorAll(what)];
const rowOf = (element) => ({
  list: element.closest('[data-list]')?.dataset.list ?? '',
  key: element.dataset.key,
});
const valueOf = (field) => {
  // What is said by a label says its value apart.
  if (field.dataset.value !== undefined) return String(JSON.parse(field.dataset.value));
  if (field.dataset.openField !== undefined) return '';
  if (field.getAttribute('role') !== 'switch') return field.value;
  return field.getAttribute('aria-checked') === 'true' ? 'yes' : 'no';
};

/** A title that is not what its element says stands in its attribute. */
const titleOf = (element) => element?.dataset.title || text(element);

/** What is first in view of what scrolls, and how much of it is over the edge. */
function firstOf(pane, rows) {
  const scroll = pane.querySelector('[data-scroll]') ?? pane;
  const { top } = scroll.getBoundingClientRect();
  const under = (edge) => (element) => element.getBoundingClientRect().bottom > edge + 0.5;
  const isUnder = under(top);
  const segments = all(pane, '[data-segment]')
    .sort((a, b) => Number(a.dataset.segment) - Number(b.dataset.segment))
    .filter(isUnder);
  const isAtEdge = (element) => element.getBoundingClientRect().top <= top + 0.5;
  const here = segments.find(isAtEdge) ?? segments[0];
  if (!here) return { first: null, first_part: null, above: null };
  const list = here.querySelector('[data-across]') ? null : here.querySelector('[data-list]');
  const isOf = (each) => list?.contains(each) && each.getBoundingClientRect().height > 0;
  // Heads that stay in view cover what lies under them.
  const heads = list?.querySelector('.heads')?.getBoundingClientRect().height ?? 0;
  const row = rows.filter(isOf).find(under(top + heads));
  const lies = (row ?? here).getBoundingClientRect().top - Number(row?.dataset.gap ?? 0) * unit;
  return {
    first: row ? rowOf(row) : null,
    first_part: here.dataset.part,
    above: round(top + (row ? heads : 0) - lies),
  };
}

function paneOf(pane) {
  const box = pane.getBoundingClientRect();
  const rows = all(pane, '[data-list] [data-key]');
  const lists = all(pane, '[data-list]');
  return {
    place: pane.dataset.pane,
    screen: pane.dataset.screen ?? null,
    x: round(isRtl ? edge.right - box.right : box.left - edge.left),
    width: round(box.width),
    y: round(box.top - edge.top),
    height: round(box.height),
    title: titleOf(pane.querySelector('[data-title]')),
    back: pane.querySelector('[data-back]')?.dataset.back ?? null,
    chosen: rows.filter((row) => row.getAttribute('aria-current') === 'true').map(rowOf),
    picked: rows.filter((row) => row.dataset.picked !== undefined).map(rowOf),
    shown: rows.map(rowOf),
    rows: Object.fromEntries(
      lists.map((each) => [each.dataset.list, Number(each.dataset.count ?? -1)]),
    ),
    fields: Object.fromEntries(
      all(pane, '[data-field]').map((each) => [each.dataset.field, valueOf(each)]),
    ),
    ...firstOf(pane, rows),
  };
}

const passing = root.querySelector('[data-passing]');
const question = root.querySelector('[data-question]');
return {
  phase: root.dataset.phase ?? '',
  section: root.dataset.section ?? '',
  address: root.dataset.address || null,
  panes: all(root, '[data-pane]').filter((each) => each.getClientRects().length).map(paneOf),
  ...(passing && { said: text(passing.querySelector('span')) }),
  question: question ? text(question.querySelector('p') ?? question) : null,
  focus: document.activeElement?.closest('[data-pane]')?.dataset.screen ?? null,
};
