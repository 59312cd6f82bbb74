/** The address of a route; undefined where its screen has none, or a value of it is missing. */
export function addressOf(route: Route): string | undefined {
  const words: Words = Object.create(null) as Words;
  for (const [name, value] of Object.entries(route.arguments)) words[name] = word(value);
  for (const [template, screen] of ADDRESSES) {
    const address = screen === route.screen ? told(template, words) : undefined;
    if (address !== undefined) return address;
  }
  return undefined;
}

/** The route that an address leads to; undefined where there is none. */
export function routeAt(address: string): Route | undefined {
  for (const [template, screen] of ADDRESSES) {
    const words = read(template, address);
    if (!words) continue;
    const given: Record<string, unknown> = {};
    for (const { name, type } of SCREENS[screen] ?? []) {
      const value = valueIn(words[name], type);
      if (value !== undefined) given[name] = value;
    }
    const route = routeOf(screen, given);
    if (route) return route;
  }
  return undefined;
}

/** A route of what came; undefined where there is no such screen, or an argument does not fit. */
export function routeOf(screen: unknown, came: unknown): Route | undefined {
  const parameters =
    typeof screen === 'string' && Object.hasOwn(SCREENS, screen) ? SCREENS[screen] : undefined;
  if (!parameters || typeof came !== 'object' || came === null) return undefined;
  const given = came as Record<string, unknown>;
  if (Object.keys(given).some((name) => !parameters.some((each) => each.name === name)))
    return undefined;
  for (const { name, type, required } of parameters) {
    const value = Object.hasOwn(given, name) ? given[name] : undefined;
    if (value === undefined ? required : !isOf(value, type)) return undefined;
  }
  return { screen, arguments: { ...given } } as Route;
}

/** One open screen as it is saved; what else is kept of it stays as it came. */
export interface Entry {
  route: Route;
  opened: string;
  rest: Record<string, unknown>;
}

export interface Chain {
  section: string;
  entries: Entry[];
  asked: boolean;
}

export interface SavedState {
  section: string;
  chains: Chain[];
  values: Record<string, unknown>;
  stored: unknown[];
}

/** What is saved, as JSON text. */
export function writeSaved(state: SavedState): string {
  const chains = state.chains.map(({ section, entries, asked }) => ({
    section,
    entries: entries.map(({ route, opened, rest }) => ({
      ...rest,
      screen: route.screen,
      arguments: route.arguments,
      opened,
    })),
    asked,
  }));
  return JSON.stringify({
    section: state.section,
    chains,
    values: state.values,
    stored: state.stored,
  });
}

/** What was saved, trusting nothing: an entry that does not fit is dropped with those after it. */
export function readSaved(text: string): SavedState {
  const came = objectOf(parsed(text));
  const chains = listOf(came.chains).map((each) => {
    const chain = objectOf(each);
    const entries: Entry[] = [];
    for (const one of listOf(chain.entries)) {
      const { screen, arguments: given, opened, ...rest } = objectOf(one);
      const route = routeOf(screen, given ?? {});
      if (!route) break;
      entries.push({ route, opened: typeof opened === 'string' ? opened : 'push', rest });
    }
    return { section: String(chain.section ?? ''), entries, asked: chain.asked === true };
  });
  const section = typeof came.section === 'string' ? came.section : '';
  return { section, chains, values: objectOf(came.values), stored: listOf(came.stored) };
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return {};
  }
}

const listOf = (came: unknown): unknown[] => (Array.isArray(came) ? came : []);

function objectOf(came: unknown): Record<string, unknown> {
  const isObject = typeof came === 'object' && came !== null && !Array.isArray(came);
  return isObject ? (came as Record<string, unknown>) : {};
}
