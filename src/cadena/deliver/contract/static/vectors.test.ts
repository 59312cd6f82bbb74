// Replays the vectors against a stand-in app; put your own in its place.
//
// Compile with tsc, run with node. What the stand-in does not know how to take it takes over from
// the vector, and is not compared.

import { strict as assert } from 'node:assert';
import { readFileSync, readdirSync } from 'node:fs';
import { addressOf, readSaved, routeAt, routeOf, writeSaved, type Route } from './routes.js';

interface Argument {
  from: string;
  parameter: string;
  argument?: string;
  is_key?: boolean;
}
interface Link {
  from: { screen: string; on: string; part: string };
  to: string;
  how: string;
  arguments: Argument[];
}
interface Event {
  do: string;
  key?: unknown;
  list?: string;
  button?: string;
  screen?: string;
}
interface Line {
  event: Event | null;
  section: string;
  chain: { screen: string; arguments: Record<string, unknown> }[];
  question: string | null;
  notes: { kind: string }[];
}

const here = process.argv[2] ?? '..';
const contract = JSON.parse(readFileSync(`${here}/routes.json`, 'utf8'));

/** An app of one pane: a chain for each section, and links that carry keys. */
class StandIn {
  section: string = contract.start;
  chains = new Map<string, Route[]>();

  get chain(): Route[] {
    return this.chains.get(this.section) ?? [];
  }

  /** Take a state over from a vector. */
  become(line: Line): void {
    this.section = line.section;
    const routes = line.chain.map((each) => routeOf(each.screen, each.arguments));
    assert(
      routes.every((each) => each !== undefined),
      JSON.stringify(line.chain),
    );
    this.chains.set(line.section, routes as Route[]);
  }

  /** Whether the event is one that this app knows how to take. */
  take(event: Event): boolean {
    if (event.do === 'choose') return this.follow('row', event.list ?? '', event);
    if (event.do === 'press') return this.follow('button', event.button ?? '', event);
    if (event.do !== 'back') return false;
    if (this.chain.length > 1) this.chains.set(this.section, this.chain.slice(0, -1));
    return this.chain.length > 0;
  }

  /** Open what a link opens from the last screen, if it carries nothing but keys. */
  follow(on: string, part: string, event: Event): boolean {
    const last = this.chain[this.chain.length - 1];
    if (!last || (event.screen ?? last.screen) !== last.screen) return false;
    const isIt = ({ from }: Link): boolean =>
      from.screen === last.screen && from.on === on && from.part === part;
    const link = (contract.links as Link[]).find(isIt);
    if (!link || link.how === 'replace') return false;
    const given: Record<string, unknown> = {};
    for (const each of link.arguments) {
      if (each.from === 'argument')
        given[each.parameter] = (last.arguments as Record<string, unknown>)[each.argument ?? ''];
      else if (each.from === 'field' && each.is_key && event.key !== undefined)
        given[each.parameter] = event.key;
      else return false;
    }
    const opened = routeOf(link.to, given);
    if (!opened) throw new Error(`${link.to} ${JSON.stringify(given)}`);
    const isOpen = this.chain.some((each) => JSON.stringify(each) === JSON.stringify(opened));
    if (!isOpen) this.chains.set(this.section, [...this.chain, opened]);
    return true;
  }
}

/** Whether nothing but the event itself has happened: nothing asked, refused, or by rule. */
const isPlain = (line: Line): boolean =>
  !line.question && line.notes.every(({ kind }) => ['opened', 'back', 'arranged'].includes(kind));

/** The least share of all steps that must be compared; raise it with what your app can take. */
const LEAST = 0.1;
let [compared, over] = [0, 0];
function replay(file: string): void {
  const app = new StandIn();
  for (const text of readFileSync(`${here}/vectors/${file}`, 'utf8').split('\n').filter(Boolean)) {
    const line = JSON.parse(text) as Line;
    if (line.event && isPlain(line) && app.take(line.event)) {
      const wanted = line.chain.map(({ screen, arguments: given }) => ({
        screen,
        arguments: given,
      }));
      assert.deepEqual(app.chain, wanted, `${file}, after ${JSON.stringify(line.event)}`);
      compared += 1;
    } else if (line.chain.length) {
      app.become(line);
      over += 1;
    }
    for (const route of app.chain) {
      const told = addressOf(route);
      const again = told === undefined ? undefined : routeAt(told);
      assert.equal(again && addressOf(again), told);
    }
  }
}

const saved = JSON.stringify({
  section: 'a',
  chains: [{ section: 'a', entries: [{ screen: 'no such screen' }] }],
  values: { x: 1 },
});
assert.deepEqual(readSaved(saved).chains[0]?.entries, []);
assert.deepEqual(readSaved(writeSaved(readSaved(saved))), readSaved(saved));
assert.deepEqual(readSaved('{').chains, []);
interface Window {
  vectors: string;
  panes: unknown[];
}
const onePane = (contract.windows as Window[])
  .filter((each) => each.panes.length === 1)
  .map((each) => each.vectors);
for (const file of readdirSync(`${here}/vectors`)) {
  if (onePane.includes(file.split('.').at(-2) ?? '')) replay(file);
}
console.log(`compared ${compared} of ${compared + over} steps, taken over ${over}`);
if (compared === 0 || compared < LEAST * (compared + over)) {
  throw new Error(`too little was compared to say anything: at least ${LEAST * 100} % is wanted`);
}
