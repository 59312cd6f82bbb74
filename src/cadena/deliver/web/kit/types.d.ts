// Types of the kit by their names, for who reads and checks them; no browser asks for this file.

export {};

declare global {
  type Column = import('./column.js').Column;
  type Found = import('./records.js').Found;
  type Listed = import('./query.js').Listed;
  type Page = import('./page/page.js').Page;
  type Records = import('./records.js').Records;
  type RowStack = import('./rows.js').RowStack;
  type Rows = import('./query.js').Rows;
  type WiredApp = import('./app.js').WiredApp;

  /** What a screen's view state is made of, by its parts. */
  interface View {
    scroll: Anchor | null;
    search: Record<string, string>;
    sort: Record<string, any[]>;
    marker: Record<string, Scalar>;
    last: Record<string, Scalar>;
    across: Record<string, Anchor>;
    choice: Record<string, Scalar>;
    page: string;
    turned: Record<string, Anchor>;
    draft: Record<string, Value | null>;
    tried: boolean;
    groups: Record<string, string[]>;
    picked: Record<string, Scalar[]>;
  }
  interface Session {
    window: AppWindow;
    section: string;
    chains: Record<string, Chain>;
    phase: 'running' | 'asleep' | 'killed' | 'left';
    slid: boolean;
    values: Record<string, Value>;
    changes: Record<string, any>;
    stored: any[];
    kept: string;
    clock: number;
    calls: number;
    requests: any[];
    question: any;
    menu: {entry: number, part: string, key: Scalar | null} | null;
    removal: {source: string, keys: Scalar[], title: string} | null;
    sectionsOpen: boolean;
    focus: number;
    ahead: Ahead[];
    passing: {text: string, until: number} | null;
    divided: Record<string, Divided>;
    writes: Write[];
    confirmed: {source: string, key: any, calls: number}[];
  }
  /** How wide (or high) the panes of an arrangement were left by hand, in dp; null as wired. */
  type Divided = (number | null)[];
  /** The divider after a pane, where a person can move it: the size of that pane, in dp. */
  type Divider = {pane: number, area: Area, size: number, least: number, most: number};
  /** The form that something was saved in, and what was typed in it. */
  type FormAt = {
    section: string;
    screen: string;
    arguments: Record<string, Value>;
    draft: Record<string, Value | null>;
  };
  /** Something to be written to a service, until that is confirmed or given up (9.1). */
  type Write = {
    number: number;
    source: string;
    kind: string;
    key: Scalar | null;
    fields: Record<string, any>;
    was: Record<string, any>;
    state: string;
    call: number;
    due: number | null;
    form: FormAt | null;
    why: string;
    faults: Record<string, string>;
    theirs: Record<string, any>;
    done: boolean;
    made: Scalar | null;
    away: boolean;
  };
  /** What one back took away; there are no entries where it went to the start section (17). */
  type Ahead = {section: string, length: number, entries: Entry[]};
  type Anchor = {part: string, key: Scalar | null, above: number, index: number, seen: number[] | null};
  type RowRef = {part: string, key: Scalar, of: number | null, action: string};
  type Load = {
    state: string;
    request: number;
    brought: number;
    more: boolean;
    search: string;
    sort: any[] | null;
    failed: [string, any[] | null] | null;
    again: number;
    came: any[];
    first: number;
  };
  type Entry = {
    screen: string;
    arguments: Record<string, Value>;
    opened: string;
    by: string;
    row: RowRef | null;
    view: View;
    loads: Record<string, Load>;
    openedFor: OpenedFor | null;
  };
  /** What a screen was opened to choose for: a field, a fact or a button (15). */
  type OpenedFor = {on: string, part: string, of: number | null};
  /** Who asked for a list to be opened, by its place in the chain, and by which link. */
  type Asking = {owner: number, link: any, brings: any};
  type Chain = {section: string, entries: Entry[], asked: boolean};
  type AppWindow = {
    width: number;
    height: number;
    fold: number | null;
    foldAcross: boolean;
    folded: boolean;
    text: number;
    rtl: boolean;
  };
  /** One stretch of a screen. */
  interface Piece {
    kind: string;
    part: string;
    height: number;
    block?: any;
    listed?: Listed;
    stack?: RowStack;
    lines?: string[];
  }
  /** A piece where it lies; 0 wide takes all. */
  type Segment = Piece & {top: number, left: number, width: number};
  interface Display {
    arrangement: any;
    panes: Pane[];
    slid: Pane | null;
    layer: Pane | null;
    layerAs: string;
    shown: Pane[];
  }
  /** In dp, from where reading begins. */
  type Area = {x: number, y: number, width: number, height: number};
  /** Without an entry it says that nothing is chosen. */
  type Pane = {entry: number | null, area: Area};
  type Change = {key: Scalar, fields: Record<string, any>};
  type Changes = {changed: Change[], gone: Scalar[], added: Record<string, any>[]};
  /** What a path that follows references leads to (13). */
  type Far = (row: Record<string, any>, path: string) => any;
  type Sort = {field: string, descending?: boolean};
  type Note = {kind: string, case?: string, data?: Record<string, any>, where?: string};
  type Taken = [Session, Note[]];
  type Scalar = string | number | boolean;
  type Value = Scalar | Scalar[];
  type Asked = {arguments: any, search: string, sort: any[] | null, values: any, choices: any};
  type Send = (event: Record<string, any>) => void;
  /** A running app, and how to tell it what happens. */
  type Words = {language: string, said: Record<string, string | Record<string, string>>};
  type Run = {
    app: WiredApp;
    session: Session;
    now: () => Session;
    send: Send;
    back: () => void;
    own: Own;
    isPrinting: boolean;
  };
  /** What is drawn in a way of your own (`extend.js`), by name. */
  type Own = {
    rows?: Record<string, (row: OwnRow) => any>;
    blocks?: Record<string, (block: OwnScreen) => any>;
    screens?: Record<string, (screen: OwnScreen) => any>;
  };
  /** A record as it now is: the value of a field, and what is said of it. */
  type OwnRecord = {value: (field: string) => any, said: (field: string) => string};
  type OwnRow = OwnRecord & {h: typeof import('./page/dom.js').h, key: Scalar};
  type OwnScreen = OwnRecord & {
    h: typeof import('./page/dom.js').h;
    arguments: Record<string, Value>;
    send: Send;
    back: () => void;
  };
  /** A screen that is open, and what its events say of it. */
  type Open = Run & {entry: Entry, index: number, on: {screen: string, entry: number}, area: Area, screen: any};
  /** An element that is wanted. */
  type Made = {tag: string, props: Record<string, any>, children: (Made | string)[]};
  type Step = {session: Session, notes: Note[], refused: boolean};
  /** One link on the way. */
  type WayStep = {link: any, arguments: Record<string, any>, row: RowRef | null};
  /** A screen on the way back to a root. */
  type WayPlace = {screen: string, arguments: Record<string, any>, record: Found | null, steps: WayStep[]};
}
