/** The columns of queries' tables, behind their lines, as forms choose among them. */
import { api, ask, type Column } from '../api/client';

/** The columns of a query's newest table. */
export async function queryColumns(query_id: number): Promise<Column[]> {
  const params = { path: { query_id } };
  const [detail, worked] = await Promise.all([
    ask(api.GET('/api/queries/{query_id}', { params })),
    ask(api.GET('/api/work-out/{query_id}/columns', { params })).catch(() => []),
  ]);
  const plain = !detail.brief.work_out.length && !detail.brief.start;
  return plain || !worked.length ? detail.columns : (worked as unknown as Column[]);
}
