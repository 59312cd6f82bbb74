// Replays events on the kit: a run a line comes in, its trace goes out.

import { createInterface } from 'node:readline';
import { pathToFileURL } from 'node:url';

const kit = (name) => import(pathToFileURL(`${process.argv[2]}/${name}`));
const { WiredApp } = await kit('app.js');
const { start, step } = await kit('step.js');
const { traceLine } = await kit('trace.js');
const { sized } = await kit('session.js');

for await (const text of createInterface({ input: process.stdin })) {
  const { app: described, records, window, events } = JSON.parse(text);
  const app = new WiredApp(described, records);
  let [session, notes] = start(app, sized(window.width, window.height, window.fold ?? null));
  const lines = [traceLine(app, session, null, notes)];
  for (const event of events) {
    const taken = step(app, session, event);
    session = taken.session;
    lines.push(traceLine(app, session, event, taken.notes));
  }
  console.log(JSON.stringify(lines));
}
