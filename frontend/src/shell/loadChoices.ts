/** Loads the registries that forms are drawn from, once. */
import { setChoices } from '../domain/choices';
import { api, ask } from '../api/client';

export async function loadChoices(): Promise<void> {
  setChoices(await ask(api.GET('/api/choices')));
}
