// Replays events on the kit: a run a line comes in, its trace goes out.

import { createInterface } from 'node:readline';
import { pathToFileURL } from 'node:url';

const kit = (name) => import(pathToFileURL(`${process.argv[2]}/${name}`));
const { WiredApp } = await kit('app.js');
const { start, step } = await kit('step.js');
const { traceLine } = await kit('trace.js');
const { cameBy, comesBy, waits } = await kit('flights.js');
const { sized } = await kit('session.js');

for await (const text of createInterface({ input: process.stdin })) {
  const { app: described, records, window, events, flights = false } = JSON.parse(text);
  const app = new WiredApp(described, records);
  let [session, notes] = start(app, sized(window.width, window.height, window.fold ?? null));
  const lines = [traceLine(app, session, null, notes)];
  const flown = [];
  for (const event of events) {
    const before = session;
    const taken = step(app, session, event);
    session = taken.session;
    lines.push(traceLine(app, session, event, taken.notes));
    const came = flights ? cameBy(app, before, session) : null;
    const coming = flights ? comesBy(app, before, session) : null;
    flown.push([
      came && [
        came.link.id,
        came.row?.key ?? null,
        came.at,
        came.forth,
        waits(came.link.transition),
      ],
      coming && [coming.link.id, coming.at, coming.forth],
    ]);
  }
  if (flights) lines.push(...flown);
  console.log(JSON.stringify(lines));
}
