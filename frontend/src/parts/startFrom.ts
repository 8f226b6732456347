/** A new query that starts from a table. */
import { api, ask, type Brief, type Start } from '../api/client';

const EMPTY: Omit<Brief, 'name'> = {
  tin_bucket: 1,
  note: '',
  parameters: [],
  each: [],
  pages: { by: 'none', total: null },
  take: { records: '$', rows_for: [], without_items: 'keep', keyed: [] },
  look_up: [],
  work_out: [],
  hand_over: [],
  keep: { answers: { runs: 3, days: null }, match: [], alike: [], paused: false },
};

/** Make a query whose table is that of another query, or of a sheet; gives its number.
 * @param name what the table is called. */
export async function startFrom(table: Start['tables'][number], name: string): Promise<number> {
  const desk = await ask(api.GET('/api/desk'));
  const taken = desk.queries.map((one) => one.name);
  let own = `${name}, worked out`;
  for (let at = 2; taken.includes(own); at++) own = `${name}, worked out ${at}`;
  const brief = { ...EMPTY, name: own, start: { tables: [table], whose: '' } };
  return (await ask(api.POST('/api/queries', { body: { brief } }))).id;
}
