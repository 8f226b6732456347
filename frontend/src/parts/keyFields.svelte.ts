/** Which fields a key has: the server's rule, asked anew as the key is made. */
import { api, ask, type Key } from '../api/client';

/** @param key The key as it is now; nothing while there is none. */
export function keyFields(key: () => Key | null): { readonly names: string[] } {
  let names = $state<string[]>([]);
  $effect(() => {
    const made = key();
    if (!made) {
      names = [];
      return;
    }
    const body = { ...made, name: made.name || 'key' };
    let current = true;
    ask(api.POST('/api/key-fields', { body })).then(
      (found) => {
        if (current) names = found;
      },
      () => {}, // It is being typed; the next change asks again.
    );
    return () => (current = false);
  });
  return {
    get names() {
      return names;
    },
  };
}
