import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import type { Brief, Progress } from '../../src/api/client';
import { server } from '../server';
import { QueryStore } from '../../src/query/queryStore.svelte';

const brief = {
  name: 'Sailings',
  note: '',
  parameters: [],
  ask: { service: 'ops', method: 'GET', path: '/sailings', query: [], headers: [] },
  pages: { by: 'none' },
  take: { records: '$.data[*]', rows_for: [], keyed: [], columns: null },
  look_up: [],
  work_out: [],
  keep: { match: [], paused: false },
} as unknown as Brief;

const run = (more: object = {}) => ({
  id: 7,
  state: 'complete',
  started: '2026-11-25T07:30:00Z',
  ended: '2026-11-25T07:30:02Z',
  records: 2,
  rows: 2,
  report: { gaps: [], oddities: [], drift: null },
  problem: null,
  snapshot_id: 3,
  ...more,
});

const detail = (more: object = {}) => ({
  id: 1,
  brief_id: 11,
  brief,
  service: null,
  key_stored: false,
  values: {},
  latest: { id: 3, run_id: 7, taken: '2026-11-25T07:30:00Z', rows: 2, state: 'complete', since: {} },
  dates: 1,
  columns: [{ name: 'id', kind: 'text', origin: 'taken', place: '$.id', unit: '', filled: 2 }],
  last_run: run(),
  running: null,
  next_time: null,
  ...more,
});

const preview = (more: object = {}) => ({
  id: 40,
  asked: '2026-11-25T08:00:00Z',
  run_id: 7,
  pages: 1,
  pages_read: 1,
  columns: [{ name: 'other', kind: 'text', origin: 'taken', place: '$.other', unit: '', filled: 5 }],
  rows: 5,
  records: 5,
  problem: null,
  calls: [],
  ...more,
});

const call = {
  number: 1,
  stage: 'pages',
  label: '',
  status: 200,
  ms: 5,
  records: 2,
  problem: null,
  state: 'answered',
  saved: false,
};

type Answer = unknown | ((body: unknown) => unknown);
let answers: Record<string, Answer>;
let asked: { what: string; body: unknown }[];
let sources: { url: string; onmessage: ((event: { data: string }) => void) | null; closed: boolean }[];

class FakeSource {
  onmessage = null;
  closed = false;
  constructor(readonly url: string) {
    sources.push(this);
  }
  close(): void {
    this.closed = true;
  }
}

/** The draft as the server would keep it. */
interface Kept {
  document: Brief;
  name: string;
  given: object;
}
let draft: Record<string, unknown> | null;
let states: Brief[];
const stateOf = (at: number) => ({
  document: states[at],
  unsaved: JSON.stringify(states[at]) !== JSON.stringify(brief),
  version: Number(draft?.version ?? 0) + 1,
});

function keep(body: Kept): object {
  const steps = (draft?.steps as object[] | undefined) ?? [{ number: 0, name: '' }];
  states.push(body.document);
  const at = states.length - 1;
  draft = {
    based_on: 11,
    steps: [...steps, { number: at, name: body.name }],
    at,
    changed: '2026-11-25T07:30:00Z',
    given: body.given,
    ...stateOf(at),
  };
  return draft;
}

beforeEach(() => {
  asked = [];
  sources = [];
  answers = {
    'GET /api/queries/1': detail(),
    'GET /api/runs/7/calls': [call],
    'POST /api/queries/1/reread': preview(),
    'PUT /api/queries/1/draft': (body: Kept) => keep(body),
    'PUT /api/queries/1/draft/at': (body: { at: number }) => ({ ...draft, at: body.at, ...stateOf(body.at) }),
  };
  draft = null;
  states = [brief];
  vi.stubGlobal('EventSource', FakeSource);
  server.handle = async (request) => {
    const what = `${request.method} ${new URL(request.url).pathname}`;
    const body = request.body ? JSON.parse(await request.text()) : null;
    asked.push({ what, body });
    const given = answers[what];
    const found = typeof given === 'function' ? await given(body) : given;
    if (found === undefined) throw new Error(`nobody expected ${what}`);
    if (found instanceof Response) return found;
    return new Response(JSON.stringify(found), { headers: { 'Content-Type': 'application/json' } });
  };
});

afterEach(() => vi.unstubAllGlobals());

const refused = (kind: string, status = 409) =>
  new Response(JSON.stringify({ kind, what: `it is ${kind}`, where: '', do: 'try again', words: '' }), {
    status,
  });

async function loaded(): Promise<QueryStore> {
  const work = new QueryStore(1);
  await work.load(true);
  return work;
}

const tell = (more: Partial<Progress>) => {
  const progress = {
    run_id: 9,
    query_id: 1,
    state: 'running',
    stage: 'pages',
    tiles: [],
    snapshot_id: null,
    problem: null,
  };
  sources.at(-1)?.onmessage?.({ data: JSON.stringify({ ...progress, ...more }) });
};
const settled = () => new Promise((resolve) => setTimeout(resolve, 5));

test('a query is shown when the first plan is here, so that nothing moves when it comes', async () => {
  let answer: (plan: object) => void = () => undefined;
  answers['POST /api/plan'] = () => new Promise((done) => (answer = done));
  const work = new QueryStore(1);
  void work.load(true);
  await vi.waitFor(() => expect(asked.at(-1)?.what).toBe('POST /api/plan'));
  expect(work.ready).toBe(false);
  answer({ first_call: { address: 'a' }, cost: null });
  await vi.waitFor(() => expect(work.ready).toBe(true));
  expect(work.plan?.first_call.address).toBe('a');
});

test('a query that is opened shows its newest snapshot, and reads one saved page for its hints', async () => {
  const work = await loaded();
  expect(work.columns.map((column) => column.name)).toEqual(['id']);
  expect(work.height).toBe(2);
  expect(work.dirty).toBe(false);
  expect(work.previews.shows).toBe(false);
  expect(work.tiles.map((tile) => tile.state)).toEqual(['answered']);
  expect(asked.find((one) => one.what.endsWith('reread'))?.body).toMatchObject({ most: 1 });
});

test('without a snapshot all saved answers are shown', async () => {
  answers['GET /api/queries/1'] = detail({
    latest: null,
    dates: 0,
    columns: [],
    last_run: run({ state: 'interrupted', snapshot_id: null }),
  });
  const work = await loaded();
  expect(asked.find((one) => one.what.endsWith('reread'))?.body).toMatchObject({ most: null });
  expect(work.previews.shows).toBe(true);
  expect(work.height).toBe(5);
});

/** A brief that reads the answers in a way of its own, and says which in its note. */
const noted = (note: string): Brief => ({ ...brief, note, take: { ...brief.take, records: `$.${note}[*]` } });

describe('editing', () => {
  test('a change is read from saved answers and can be undone', async () => {
    const work = await loaded();
    await work.change(noted('changed'));
    expect(work.dirty).toBe(true);
    expect(work.previews.shows).toBe(true);
    expect(work.columns.map((column) => column.name)).toEqual(['other']);
    await settled();
    expect(work.drafts.undoes?.name).toBe('chose other rows');
    await work.undo();
    await settled();
    expect(work.dirty).toBe(false);
    expect(work.previews.shows).toBe(false);
    expect(work.drafts.redoes?.name).toBe('chose other rows');
    await work.redo();
    expect(work.draft?.note).toBe('changed');
    await work.discard();
    await settled();
    expect([work.dirty, work.drafts.undoes?.name]).toEqual([false, 'discarded the changes']);
    expect(asked.some((one) => one.what === 'POST /api/ask-once')).toBe(false);
  });

  test('a draft that is kept is taken up, and its values with it', async () => {
    const mine = { ...brief, note: 'mine' };
    states.push(mine);
    const kept = {
      based_on: 11,
      steps: [{ number: 0, name: '' }],
      at: 1,
      changed: '',
      given: { day: 'x' },
      ...stateOf(1),
    };
    answers['GET /api/queries/1'] = detail({ draft: kept });
    const work = await loaded();
    expect([work.dirty, work.draft?.note, work.given]).toEqual([true, 'mine', { day: 'x' }]);
  });

  test('a change that another window came before is held until somebody decides, and is lost by neither', async () => {
    const work = await loaded();
    answers['PUT /api/queries/1/draft'] = () => refused('draft-changed-meanwhile');
    await work.change(noted('mine'));
    await settled();
    expect(work.drafts.other?.brief.note).toBe('mine');
    states.push({ ...brief, note: 'theirs' });
    draft = {
      based_on: 11,
      steps: [
        { number: 0, name: '' },
        { number: 1, name: 'theirs' },
      ],
      at: 1,
      given: {},
      ...stateOf(1),
    };
    answers['GET /api/queries/1/draft'] = draft;
    answers['PUT /api/queries/1/draft'] = (body: Kept) => keep(body);
    await work.drafts.keepMine();
    expect(work.drafts.kept?.steps.map((step) => step.name)).toEqual(['', 'theirs', 'chose other rows']);
    expect([work.drafts.other, work.draft?.note]).toEqual([null, 'mine']);
  });

  test('a change that cannot be sent is said, and sent again by itself', async () => {
    vi.useFakeTimers();
    const work = await loaded();
    answers['PUT /api/queries/1/draft'] = () => refused('workspace-locked', 503);
    await work.change(noted('mine'));
    await vi.advanceTimersByTimeAsync(100);
    expect(work.drafts.problem?.what).toBe('it is workspace-locked');
    answers['PUT /api/queries/1/draft'] = (body: Kept) => keep(body);
    await vi.advanceTimersByTimeAsync(4000);
    expect([work.drafts.problem, work.drafts.kept?.unsaved]).toEqual([null, true]);
    vi.useRealTimers();
  });

  test('a change whose answer comes after the page was left is sent once, and is no failure', async () => {
    vi.useFakeTimers();
    const work = await loaded();
    void work.change({ ...brief, note: 'mine' });
    work.leave();
    await vi.advanceTimersByTimeAsync(10_000);
    expect(asked.filter((one) => one.what === 'PUT /api/queries/1/draft')).toHaveLength(1);
    expect([work.drafts.problem, work.drafts.kept?.unsaved]).toEqual([null, true]);
    vi.useRealTimers();
  });

  test('a table that another brief made is read anew', async () => {
    answers['GET /api/queries/1'] = detail({ made_with: { asks: false, reads: true } });
    const work = await loaded();
    expect(work.previews.shows).toBe(true);
    expect(work.columns.map((column) => column.name)).toEqual(['other']);
  });

  test('of a long table the first records come first, then all', async () => {
    const work = await loaded();
    const most: (number | null)[] = [];
    answers['POST /api/queries/1/reread'] = (body: { most: number | null }) => {
      most.push(body.most);
      return body.most === null
        ? preview({ id: 42, pages: 900, pages_read: 900, rows: 90_000 })
        : preview({ id: 41, pages: 900, pages_read: 10, rows: body.most, partial: true });
    };
    await work.change(noted('x'));
    await settled();
    expect(most).toEqual([1000, null]);
    expect(work.height).toBe(90_000);
  });

  test('an answer to an older draft that comes late does not replace the newer one', async () => {
    const work = await loaded();
    const waiting: { note: string; answer: (found: unknown) => void }[] = [];
    answers['POST /api/queries/1/reread'] = (body: { brief: Brief }) =>
      new Promise((answer) => waiting.push({ note: body.brief.note, answer }));
    const changes = ['a', 'b', 'c'].map((note) => work.change({ ...brief, note }));
    await settled();
    // One call is in flight, and it is of the newest draft.
    expect(waiting.map((one) => one.note)).toEqual(['c']);
    const last = work.change(noted('d'));
    await settled();
    expect(waiting).toHaveLength(1);
    waiting[0]?.answer(preview({ id: 61, rows: 1 }));
    await settled();
    expect(work.previews.current?.id).not.toBe(61);
    waiting[1]?.answer(preview({ id: 62, rows: 3 }));
    await Promise.all([...changes, last]);
    expect(waiting.map((one) => one.note)).toEqual(['c', 'd']);
    expect(work.previews.current?.id).toBe(62);
    expect(work.height).toBe(3);
  });

  test('while somebody edits, the plan is asked for once', async () => {
    const work = await loaded();
    asked.length = 0;
    answers['POST /api/plan'] = (body: { brief: Brief }) => ({
      first_call: { address: body.brief.note },
      cost: null,
    });
    for (const note of ['s', 'sa', 'sai']) {
      work.draft = { ...brief, note };
      void work.foresee();
    }
    await vi.waitFor(() => expect(work.plan?.first_call.address).toBe('sai'));
    expect(asked.filter((one) => one.what === 'POST /api/plan')).toHaveLength(1);
  });

  test('records of a long table are gathered once before they are read in other ways', async () => {
    const path = 'POST /api/queries/1/at-hand';
    answers[path] = null;
    answers['POST /api/queries/1/reread'] = preview({ id: 41, run_id: 7, partial: true });
    const work = await loaded();
    vi.useFakeTimers();
    work.prepare();
    work.prepare();
    vi.runAllTimers();
    vi.useRealTimers();
    await settled();
    expect(asked.filter((one) => one.what === path).map((one) => one.body)).toMatchObject([{ preview: 41 }]);
  });

  test('the answer to an older change does not overwrite a newer one', async () => {
    const work = await loaded();
    let let_go = (): void => {};
    const waits = new Promise<void>((resolve) => (let_go = resolve));
    answers['POST /api/queries/1/reread'] = async (body: { brief: Brief }) => {
      if (body.brief.note === 'old') await waits;
      return preview({ id: body.brief.note === 'old' ? 50 : 51 });
    };
    server.handle = async (request) => {
      const body = JSON.parse(await request.text());
      const found = await (answers['POST /api/queries/1/reread'] as (body: unknown) => Promise<unknown>)(
        body,
      );
      return new Response(JSON.stringify(found), { headers: { 'Content-Type': 'application/json' } });
    };
    const first = work.change(noted('old'));
    await work.change(noted('new'));
    let_go();
    await first;
    expect(work.previews.current?.id).toBe(51);
  });

  test('what cannot be read is said and the draft stays', async () => {
    const work = await loaded();
    answers['POST /api/queries/1/reread'] = refused('lookup-column-unknown', 422);
    await work.change(noted('kept'));
    expect(work.problem?.kind).toBe('lookup-column-unknown');
    expect(work.draft?.note).toBe('kept');
  });

  test('a save names the version that it is based on, and a conflict loses nothing', async () => {
    const work = await loaded();
    await work.change(noted('mine'));
    answers['PUT /api/queries/1'] = refused('brief-changed-meanwhile');
    expect(await work.save()).toBe(false);
    expect(work.problem?.kind).toBe('brief-changed-meanwhile');
    expect(work.draft?.note).toBe('mine');
    answers['PUT /api/queries/1'] = (body: { brief: Brief }) => detail({ brief: body.brief, brief_id: 12 });
    expect(await work.save()).toBe(true);
    expect(work.dirty).toBe(false);
    expect(asked.findLast((one) => one.what === 'PUT /api/queries/1')?.body).toMatchObject({ based_on: 11 });
  });
});

describe('runs', () => {
  test('a refresh saves what is changed first, then follows the run to its snapshot', async () => {
    const work = await loaded();
    await work.change(noted('changed'));
    answers['PUT /api/queries/1'] = (body: { brief: Brief }) => detail({ brief: body.brief, brief_id: 12 });
    answers['POST /api/queries/1/refresh'] = { run_id: 9 };
    work.given = { route: 'all' };
    await work.refresh();
    const order = asked.map((one) => one.what);
    expect(order.indexOf('PUT /api/queries/1')).toBeLessThan(order.indexOf('POST /api/queries/1/refresh'));
    expect(asked.at(-1)?.body).toEqual({ values: { route: 'all' } });
    expect(sources.at(-1)?.url).toBe('/api/runs/9/events');
    const tile = {
      number: 1,
      stage: 'pages',
      label: 'page 1',
      state: 'answered',
      status: 200,
      ms: 3,
      records: 2,
    } as const;
    tell({ tiles: [tile] });
    tell({ tiles: [{ ...tile, number: 2 }] });
    expect(work.run.running).toBe(true);
    expect(work.tiles.map((one) => one.number)).toEqual([1, 2]);
    answers['GET /api/queries/1'] = detail({ brief: { ...brief, note: 'changed' } });
    tell({ state: 'complete', snapshot_id: 4 });
    await settled();
    expect(work.run.running).toBe(false);
    expect(work.previews.shows).toBe(false);
    expect(sources.at(-1)?.closed).toBe(true);
  });

  test('a refresh that is refused says why and follows nothing', async () => {
    const work = await loaded();
    answers['POST /api/queries/1/refresh'] = refused('parameter-missing', 422);
    await work.refresh();
    expect(work.problem?.kind).toBe('parameter-missing');
    expect(sources).toEqual([]);
    expect(work.busy).toBe(false);
  });

  test('a failed run shows its problem, a stopped one does not', async () => {
    const problem = { kind: 'key-refused', what: 'refused', where: '', do: '', words: '' };
    answers['GET /api/queries/1'] = detail({
      last_run: run({ state: 'failed', problem, snapshot_id: null }),
    });
    expect((await loaded()).problem?.kind).toBe('key-refused');
    answers['GET /api/queries/1'] = detail({
      last_run: run({ state: 'cancelled', problem, snapshot_id: null }),
    });
    expect((await loaded()).problem).toBeNull();
  });

  test('a run that goes on elsewhere is followed', async () => {
    answers['GET /api/queries/1'] = detail({ running: 9 });
    const work = await loaded();
    expect(sources.at(-1)?.url).toBe('/api/runs/9/events');
    work.leave();
    expect(sources.at(-1)?.closed).toBe(true);
  });

  test('asking once shows the preview and its one call', async () => {
    const work = await loaded();
    answers['POST /api/ask-once'] = preview({ id: 60, run_id: null, calls: [call] });
    expect(await work.askOnce()).toBe(true);
    expect(work.calls).toHaveLength(1);
    expect(work.height).toBe(5);
    answers['POST /api/ask-once'] = refused('key-missing', 422);
    expect(await work.askOnce()).toBe(false);
    expect(work.problem?.kind).toBe('key-missing');
  });
});

test('a server that is away is said in words', async () => {
  server.handle = async () => {
    throw new TypeError('failed to fetch');
  };
  const work = await loaded();
  expect(work.problem?.kind).toBe('unreached');
  expect(work.problem?.do).toContain('still here');
});
