import { describe, expect, test, vi } from 'vitest';
import { Latest } from '../../src/api/latest';

/** A server whose answers come when the test says so. */
function slow() {
  const calls: { input: string; answer: (value: string) => void; refuse: (error: Error) => void }[] = [];
  const call = (input: string) =>
    new Promise<string>((answer, refuse) => {
      calls.push({ input, answer, refuse });
    });
  return { calls, call };
}
const settled = () => new Promise((resolve) => setTimeout(resolve, 0));

describe('questions that follow each other', () => {
  test('one call is in flight, and the newest question goes next', async () => {
    const { calls, call } = slow();
    const latest = new Latest(call);
    const [one, two, three] = [latest.ask('1'), latest.ask('2'), latest.ask('3')];
    await settled();
    expect(calls.map((made) => made.input)).toEqual(['3']);
    const four = latest.ask('4');
    await settled();
    expect(calls).toHaveLength(1);
    calls[0]?.answer('of 3');
    await settled();
    expect(calls.map((made) => made.input)).toEqual(['3', '4']);
    calls[1]?.answer('of 4');
    expect(await Promise.all([one, two, three, four])).toEqual([null, null, null, { value: 'of 4' }]);
  });

  test('an old answer that comes late counts for nothing', async () => {
    const { calls, call } = slow();
    const latest = new Latest(call);
    const old = latest.ask('old');
    await settled();
    latest.cancel();
    calls[0]?.answer('of old');
    expect(await old).toBeNull();
  });

  test('a call that fails lets the next one go, and is told only while it is the newest', async () => {
    const { calls, call } = slow();
    const latest = new Latest(call);
    const bad = latest.ask('bad');
    await settled();
    const good = latest.ask('good');
    calls[0]?.refuse(new Error('no'));
    expect(await bad).toBeNull();
    await settled();
    calls[1]?.answer('of good');
    expect(await good).toEqual({ value: 'of good' });
    const last = latest.ask('last');
    await settled();
    calls[2]?.refuse(new Error('no'));
    await expect(last).rejects.toThrow('no');
  });

  test('nothing is asked while somebody types', async () => {
    vi.useFakeTimers();
    try {
      const { calls, call } = slow();
      const latest = new Latest(call, 150);
      for (const input of ['s', 'sa', 'sai']) {
        void latest.ask(input);
        await vi.advanceTimersByTimeAsync(100);
      }
      expect(calls).toHaveLength(0);
      await vi.advanceTimersByTimeAsync(100);
      expect(calls.map((made) => made.input)).toEqual(['sai']);
    } finally {
      vi.useRealTimers();
    }
  });
});
