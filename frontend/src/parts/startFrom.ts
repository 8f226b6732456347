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
  show: [],
  hand_over: [],
  keep: { answers: { runs: 3, days: null }, match: [], alike: [], renamed: [], paused: false },
};

/** Make a query whose table is that of another query, or of a sheet; gives its number.
 * @param name what the query is to be called; a number follows where there is one already. */
export async function startFrom(
  table: Start['tables'][number],
  name: string,
  every_date: Start['every_date'] = null,
): Promise<number> {
  const desk = await ask(api.GET('/api/desk'));
  const taken = desk.queries.map((one) => one.name);
  let own = name;
  for (let at = 2; taken.includes(own); at++) own = `${name} ${at}`;
  const brief = { ...EMPTY, name: own, start: { tables: [table], whose: '', every_date } };
  return (await ask(api.POST('/api/queries', { body: { brief } }))).id;
}
