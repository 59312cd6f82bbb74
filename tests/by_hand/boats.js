// A list and its detail, written by hand: no kit, a few lines, and what a driver must find.

const boats = await (await fetch('boats.json')).json();
const kept = JSON.parse(sessionStorage.getItem('boats') ?? 'null');
const state = kept ?? { boat: null, scroll: 0, last: null };

function draw() {
  const boat = boats.find((each) => each.id === state.boat);
  document.body.dataset.app = 'Boats';
  document.body.dataset.phase = 'running';
  document.body.dataset.section = 'boats';
  document.body.dataset.address = boat ? `/boats/${boat.id}` : '/boats';
  document.body.replaceChildren(boat ? detail(boat) : list());
  const scroll = document.querySelector('.scroll');
  if (!boat) scroll.scrollTop = state.scroll;
  (document.querySelector('[aria-current="true"] button, [data-back]') ?? scroll).focus({ preventScroll: true });
}

function pane(screen, title, entry) {
  const main = document.createElement('main');
  Object.assign(main.dataset, { pane: 'pane', screen, entry });
  const header = document.createElement('header');
  const name = document.createElement('h1');
  name.dataset.title = '';
  name.textContent = title;
  name.style.cssText = 'margin: 0; font-size: 20px; line-height: 52px';
  header.append(name);
  const scroll = document.createElement('div');
  scroll.className = 'scroll';
  scroll.dataset.scroll = '';
  scroll.tabIndex = 0;
  main.append(header, scroll);
  return { main, header, scroll };
}

function list() {
  const { main, scroll } = pane('boats', 'Boats', 0);
  const rows = document.createElement('ul');
  rows.dataset.list = '';
  rows.dataset.count = boats.length;
  for (const boat of [...boats].sort((a, b) => a.name.localeCompare(b.name))) {
    const row = document.createElement('li');
    row.dataset.key = JSON.stringify(boat.id);
    const button = document.createElement('button');
    button.textContent = boat.name;
    button.onclick = () => go({ boat: boat.id, last: boat.id, scroll: scroll.scrollTop });
    row.append(button);
    rows.append(row);
  }
  const segment = document.createElement('div');
  segment.dataset.segment = '0';
  segment.dataset.part = '';
  segment.append(rows);
  scroll.append(segment);
  scroll.onscroll = () => keep({ scroll: scroll.scrollTop });
  return main;
}

function detail(boat) {
  const { main, header, scroll } = pane('boat', boat.name, 1);
  const back = document.createElement('button');
  back.dataset.back = 'Boats';
  back.textContent = '‹ Boats';
  back.onclick = () => history.back();
  header.style.display = 'flex';
  header.prepend(back);
  const about = document.createElement('p');
  about.className = 'missing';
  about.textContent = `${boat.length} m`;
  scroll.append(about);
  return main;
}

function keep(changed) {
  Object.assign(state, changed);
  sessionStorage.setItem('boats', JSON.stringify(state));
}

function go(changed) {
  keep(changed);
  history.pushState({ boat: state.boat }, '');
  draw();
}

addEventListener('popstate', (event) => {
  keep({ boat: event.state?.boat ?? null });
  draw();
});
draw();
