import { afterEach, expect, test } from 'vitest';
import { startFrom } from '../../src/parts/startFrom';
import { empty, server } from '../server';

afterEach(() => {
  server.handle = empty;
});

test('a query that starts from a table gets a name that is free', async () => {
  let made: { brief: { name: string; start: unknown } } | null = null;
  server.handle = async (request) => {
    if (request.method === 'POST') made = (await request.json()) as typeof made;
    const desk = { queries: [{ name: 'Codes, worked out' }, { name: 'Codes, worked out 2' }] };
    return new Response(JSON.stringify(request.method === 'POST' ? { id: 9 } : desk), {
      headers: { 'Content-Type': 'application/json' },
    });
  };
  expect(await startFrom({ query: null, sheet: 'Codes' }, 'Codes, worked out')).toBe(9);
  expect(made!.brief.name).toBe('Codes, worked out 3');
  expect(made!.brief.start).toEqual({
    tables: [{ query: null, sheet: 'Codes' }],
    whose: '',
    every_date: null,
  });
});
