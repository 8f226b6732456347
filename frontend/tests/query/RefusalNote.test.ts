// @vitest-environment jsdom
import { fireEvent, render, screen, waitFor } from '@testing-library/svelte';
import { afterEach, expect, test } from 'vitest';
import { empty, server } from '../server';
import RefusalNote from '../../src/query/RefusalNote.svelte';

const limit = { calls: 90, per: 'PT10S', starts: 'any time' as const, zone: 'UTC', of: 'service' as const };
const refusal = { service_id: 'own', service: 'Own', calls: 70, limit };

/** A workspace with one service; gives what is put. */
function services(limits: object[]): { put: unknown[] } {
  const told = { put: [] as unknown[] };
  server.handle = async (request) => {
    if (request.method === 'PUT') told.put.push(await request.json());
    const body = request.method === 'PUT' ? {} : [{ service: { id: 'own', name: 'Own', limits } }];
    return new Response(JSON.stringify(body), { headers: { 'Content-Type': 'application/json' } });
  };
  return told;
}

afterEach(() => {
  server.handle = empty;
});

test('the limit that refusals show is kept with one click', async () => {
  const told = services([]);
  const { container } = render(RefusalNote, { refusal });
  await fireEvent.click(await screen.findByRole('button', { name: /^Keep to 90/ }));
  await waitFor(() => expect(told.put).toEqual([{ service: { id: 'own', name: 'Own', limits: [limit] } }]));
  await waitFor(() => expect(container.textContent).not.toContain('refused'));
});

test('refusals that fit no limit lead to where one is set', async () => {
  services([]);
  render(RefusalNote, { refusal: { ...refusal, limit: null } });
  await screen.findByText(/refused 70 calls/);
  expect(screen.queryByRole('button')).toBeNull();
  expect(screen.getByText('Set limits').getAttribute('href')).toBe('#/services');
});

test('a service that has a limit meanwhile is not told of', async () => {
  services([limit]);
  const { container } = render(RefusalNote, { refusal });
  await new Promise((resolve) => setTimeout(resolve, 50));
  expect(container.textContent.trim()).toBe('');
});
