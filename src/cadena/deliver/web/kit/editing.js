// Fields of a record that are changed where they stand (rule 8).

import { Refused, note } from './notes.js';
import { carriedInto, demandRecord, demandReferred } from './records-changed.js';
import { NO_CHANGES } from './records.js';
import { changedByHand } from './shown-at-once.js';

/** Fields of one record change in place: that shows everywhere at once. @param {WiredApp} app @param {Session} session @param {any} event @returns {Taken} */
export function edit(app, session, { source, key, fields }) {
  const records = demandRecord(app, session, source, key);
  for (const [field, value] of Object.entries(fields)) {
    const kind = records.types.get(field);
    if (kind === undefined) throw new Refused('no such field', `sources[${source}]`, { field });
    if (field === records.source.key)
      throw new Refused('key stays', `sources[${source}]`, { field });
    if (value !== null) carriedInto(source, field, kind, value);
    demandReferred(app, session, source, field, value);
  }
  const [after, notes] = changedByHand(app, session, source, {
    ...NO_CHANGES,
    changed: [{ key, fields }],
  });
  return [after, [note('changed', '', { source, key, fields: Object.keys(fields) }), ...notes]];
}
